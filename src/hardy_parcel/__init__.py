"""Hardy Parcel: pack a finished edit so that it survives each platform's own re-encoding."""

__version__ = "0.1.0"
