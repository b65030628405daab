"""The plan of a parcel: every value with its because."""
