"""A parcel: what may be chosen, what it comes to, recipes, receipts."""
