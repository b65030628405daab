"""Shape and size: which part of the master is kept, and where it stands in the packed frame."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction

from .sheets import Placement
from .values import Model, Rect


class FramingMode(StrEnum):
    """Fit keeps the whole picture and adds bars; fill crops around the centre."""

    FIT = "fit"
    FILL = "fill"


class Framing(Model):
    """`crop` in the master's display pixels goes to `picture` inside a frame of `width` × `height`."""

    mode: FramingMode | None
    width: int
    height: int
    crop: Rect
    picture: Rect

    @property
    def bars(self) -> bool:
        return self.picture.width < self.width or self.picture.height < self.height

    def enlargement(self) -> float:
        """Linear enlargement of the picture; 1 is pixel for pixel, below 1 is scaled down."""
        return self.picture.width / self.crop.width

    def kept_area(self, *, display_width: int, display_height: int) -> float:
        """Share of the master's picture that is kept, 0 to 1."""
        return (self.crop.width * self.crop.height) / (display_width * display_height)


def even(value: float | Fraction) -> int:
    """The nearest even number, at least 2: 4:2:0 chroma needs pairs of pixels."""
    return max(2, 2 * round(value / 2))


def _even_down(value: int) -> int:
    return max(2, value - value % 2)


def _centred(outer_width: int, outer_height: int, width: int, height: int) -> Rect:
    return Rect(
        x=max(0, _even_down_zero((outer_width - width) // 2)),
        y=max(0, _even_down_zero((outer_height - height) // 2)),
        width=width,
        height=height,
    )


def _even_down_zero(value: int) -> int:
    return value - value % 2


def frame_of_shape(shape: Fraction, short_side: int | Fraction) -> tuple[Fraction, Fraction]:
    """Exact width and height in px of a frame with this shape and short side."""
    side = Fraction(short_side)
    return (side * shape, side) if shape >= 1 else (side, side / shape)


def _cap_scale(placement: Placement, width: Fraction | int, height: Fraction | int) -> Fraction:
    """The largest scale, at most 1, that brings a frame within the placement's sides."""
    long_side, short_side = max(width, height), min(width, height)
    return min(
        Fraction(1),
        Fraction(placement.max_long_side_px) / long_side,
        Fraction(placement.max_short_side_px) / short_side,
    )


def choose_framing(
    placement: Placement, *, display_width: int, display_height: int, mode: FramingMode, active: Rect | None = None,
    short_side_px: int | None = None,
) -> Framing:
    """Frame size and crop for a master of this display size (px), of which only `active` counts when it is given.

    An accepted shape keeps the master's size, within the placement's cap. Another shape takes the placement's
    usual one: *fit* never enlarges the picture, *fill* enlarges a smaller crop to the usual size, since smaller
    uploads get a poorer ladder. With `short_side_px` the frame has that short side, smaller or larger, within the cap.
    """
    whole = active or Rect(x=0, y=0, width=_even_down(display_width), height=_even_down(display_height))
    own_shape = whole.shape if active else Fraction(display_width, display_height)
    if placement.accepts_shape(own_shape):
        scale = _cap_scale(placement, whole.width, whole.height)
        if short_side_px:
            wanted = Fraction(short_side_px, min(whole.width, whole.height))
            scale = wanted * _cap_scale(placement, whole.width * wanted, whole.height * wanted)
        width, height = even(whole.width * scale), even(whole.height * scale)
        return Framing(mode=None, width=width, height=height, crop=whole, picture=_centred(width, height, width, height))
    shape = placement.usual_shape
    usual = frame_of_shape(shape, short_side_px or placement.usual_short_side_px)
    if mode is FramingMode.FILL:
        crop = _largest_inside(whole, shape)
        size = usual if short_side_px else max((Fraction(crop.width), Fraction(crop.height)), usual)
        scale = _cap_scale(placement, *size)
        width, height = even(size[0] * scale), even(size[1] * scale)
        return Framing(mode=mode, width=width, height=height, crop=crop, picture=_centred(width, height, width, height))
    around = _smallest_around(whole, shape)
    scale = usual[0] / around[0] if short_side_px else min(Fraction(1), usual[0] / around[0])
    scale *= _cap_scale(placement, around[0] * scale, around[1] * scale)
    width, height = even(around[0] * scale), even(around[1] * scale)
    inside = min(Fraction(width, whole.width), Fraction(height, whole.height))
    picture = _centred(width, height, min(width, even(whole.width * inside)), min(height, even(whole.height * inside)))
    return Framing(mode=mode, width=width, height=height, crop=whole, picture=picture)


def _largest_inside(whole: Rect, shape: Fraction) -> Rect:
    width = min(Fraction(whole.width), whole.height * shape)
    crop_width = min(whole.width, even(width))
    crop_height = min(whole.height, even(width / shape))
    inside = _centred(whole.width, whole.height, crop_width, crop_height)
    return inside.model_copy(update={"x": inside.x + whole.x, "y": inside.y + whole.y})


def _smallest_around(whole: Rect, shape: Fraction) -> tuple[Fraction, Fraction]:
    width = max(Fraction(whole.width), whole.height * shape)
    return width, width / shape
