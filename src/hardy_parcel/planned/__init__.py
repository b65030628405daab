"""A parcel as it is now, from what is kept: what web and command line both need."""
