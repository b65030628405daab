"""The stand-in platforms: their sheets and handling, as data."""
