"""Read by every Python process that tests start: its screens are as small as the tests' own."""

import contextlib

with contextlib.suppress(ImportError):
    from hardy_parcel.core.arrival import screens

    screens.PIXELS_PER_DEGREE = 12
