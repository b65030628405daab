"""Shape and size: which part of the master is kept, and where it stands in the packed frame.

One geometry serves every mode. A *window* of the wanted shape is laid over the active picture around the focus: for
fill the largest that fits inside, for fit and blur the smallest that fits around, either made smaller by the zoom. What of the
picture lies in the window is kept; what of the window lies outside the picture becomes bars, black or blurred.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from fractions import Fraction

from ..errors import BadChoice
from ..master.facts import Focus, FramingMode, active_picture
from ..sheets.ladder import rungs
from ..sheets.sheet import Placement
from ..values import Model, Ratio, Rect, even, frame_of_shape, shape_text

CENTRE = Focus()
BLUR_SHARE = 0.04
"""Spread (standard deviation) of the blur behind a picture, as a share of the frame's short side."""
MOST_ZOOM = 8
NEAR_RUNG_PX, MOST_ENLARGED = 2, 1.25
NEAR_SHAPE = Fraction(6, 5)
"""A shape that is taken and differs by less than this from the picture's own gets slimmer bars than the usual one."""
SAME_SHAPE = Fraction(1, 1000)


class Framing(Model):
    """`crop` in the master's display pixels goes to `picture` inside a frame of `width` × `height`.

    `mode` is None where the frame has the picture's own shape; `shape` is the one that was wanted.
    """

    mode: FramingMode | None
    width: int
    height: int
    crop: Rect
    picture: Rect
    shape: Ratio | None = None

    @property
    def bars(self) -> bool:
        return self.picture.width < self.width or self.picture.height < self.height

    @property
    def blurred(self) -> bool:
        """Whether a blurred copy stands where bars would."""
        return self.bars and self.mode is FramingMode.BLUR

    def enlargement(self) -> float:
        """Linear enlargement of the picture; 1 is pixel for pixel, below 1 is scaled down."""
        return self.picture.width / self.crop.width

    def kept_area(self, *, width: int, height: int) -> float:
        """Share of the active picture, of this size in px, that is kept, 0 to 1."""
        return min(1.0, (self.crop.width * self.crop.height) / (width * height))


def _centred(outer_width: int, outer_height: int, width: int, height: int) -> Rect:
    def place(outer: int, inner: int) -> int:
        return max(0, (outer - inner) // 4 * 2)

    return Rect(x=place(outer_width, width), y=place(outer_height, height), width=width, height=height)


def _cap_scale(placement: Placement, width: Fraction | int, height: Fraction | int) -> Fraction:
    """The largest scale, at most 1, that brings a frame within the placement's sides."""
    long_side, short_side = max(width, height), min(width, height)
    return min(
        Fraction(1),
        Fraction(placement.max_long_side_px) / long_side,
        Fraction(placement.max_short_side_px) / short_side,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """How a creator wants a parcel framed. None leaves it to us: mode and short side (px) to the rules, the shape to the destination."""

    mode: FramingMode | None = None
    shape: Fraction | None = None
    focus: Focus = CENTRE
    zoom: float = 1.0
    short_side_px: int | None = None


def wanted_shape(placement: Placement, own: Fraction, wish: Wish) -> Fraction:
    """The shape of the frame: the creator's, the picture's own where it is taken, one a little beside it, else the usual one.

    Raises BadChoice for a shape that the placement does not take.
    """
    if wish.shape is None and not placement.accepts_shape(own):
        near = min(max(own, placement.narrowest), placement.widest)
        return near if max(own / near, near / own) <= NEAR_SHAPE else placement.usual_shape
    if wish.shape is None:
        return own
    if not placement.accepts_shape(wish.shape):
        low, high = placement.narrowest, placement.widest
        taken = shape_text(low) if low == high else f"{shape_text(low)} to {shape_text(high)}"
        choose = f"Choose {taken}." if low == high else f"Choose one from {taken}."
        raise BadChoice(f"{shape_text(wish.shape)} is not taken here.", choose, code="shape_not_taken")
    return wish.shape


def choose_framing(
    placement: Placement,
    *,
    display_width: int,
    display_height: int,
    wish: Wish | None = None,
    active: Rect | None = None,
) -> Framing:
    """Frame size and crop for a master of this display size (px), of which only `active` counts when it is given.

    The picture's own shape keeps its size, within the placement's cap. In another shape *fit* and *blur* hardly enlarge the
    whole picture, and *fill* enlarges a smaller crop to the usual size where the platform re-encodes, since smaller
    uploads get a poorer ladder; a size between two rungs of the ladder goes to the nearer one. With a short side of the
    wish's the frame has that, smaller or larger, within the cap. Without a mode of the wish's the picture is cropped, but
    where a shape a little beside its own is taken: then slim bars lose nothing.
    """
    wish = wish or Wish()
    whole = active_picture(display_width=display_width, display_height=display_height, active=active)
    own_shape = whole.shape if active else Fraction(display_width, display_height)
    shape = wanted_shape(placement, own_shape, wish)
    if wish.shape is None and wish.mode is not FramingMode.FILL and shape not in (own_shape, placement.usual_shape):
        near, usual = (
            choose_framing(
                placement,
                display_width=display_width,
                display_height=display_height,
                active=active,
                wish=replace(wish, shape=item, mode=wish.mode or FramingMode.FIT),
            )
            for item in (shape, placement.usual_shape)
        )
        # less of a bar is worth nothing where the picture itself becomes smaller for it
        return usual if usual.picture.width * usual.picture.height > near.picture.width * near.picture.height else near
    same = abs(shape / own_shape - 1) <= SAME_SHAPE
    if same and wish.zoom <= 1:
        width, height = _own_size(placement, whole, wish.short_side_px)
        return Framing(
            mode=None,
            width=width,
            height=height,
            crop=whole,
            picture=_centred(width, height, width, height),
            shape=shape,
        )
    mode = FramingMode.FILL if same or wish.mode is None else wish.mode
    around, inside = _smallest_around(whole, shape), _largest_inside(whole, shape)
    base = inside if mode is FramingMode.FILL else around
    zoom = Fraction(min(max(wish.zoom, 1.0), MOST_ZOOM)).limit_denominator(1000)
    window = base[0] / zoom, base[1] / zoom
    width, height = _frame_size(
        placement, whole, window if mode is FramingMode.FILL else around, shape, mode, wish.short_side_px
    )
    crop = _crop(whole, window, Fraction(width, height), wish.focus)
    picture = _centred(
        width,
        height,
        *_picture_size(width, height, crop, beside=window[0] > whole.width, above=window[1] > whole.height),
    )
    return Framing(mode=mode, width=width, height=height, crop=crop, picture=picture, shape=shape)


def _own_size(placement: Placement, whole: Rect, short_side_px: int | None) -> tuple[int, int]:
    scale = _cap_scale(placement, whole.width, whole.height)
    if short_side_px:
        wanted = Fraction(short_side_px, min(whole.width, whole.height))
        scale = wanted * _cap_scale(placement, whole.width * wanted, whole.height * wanted)
    return even(whole.width * scale), even(whole.height * scale)


def _frame_size(
    placement: Placement,
    whole: Rect,
    exact: tuple[Fraction, Fraction],
    shape: Fraction,
    mode: FramingMode,
    short_side_px: int | None,
) -> tuple[int, int]:
    """The frame in px, of the wanted shape; `exact` is what it would be with the kept picture pixel for pixel."""
    if short_side_px:
        size = frame_of_shape(shape, short_side_px)
    elif mode is FramingMode.FILL:
        usual = frame_of_shape(shape, placement.usual_short_side_px)
        size = max(exact, usual) if placement.handling.tiers else exact
    else:  # as many lines as the picture has, or the usual number, and never more than pixel for pixel
        side = max(placement.usual_short_side_px, min(whole.width, whole.height))
        size = min(exact, frame_of_shape(shape, side))
    scale = _cap_scale(placement, *size)
    result = even(size[0] * scale), even(size[1] * scale)
    return result if short_side_px else _on_a_rung(placement, result, shape)


def _on_a_rung(placement: Placement, size: tuple[int, int], shape: Fraction) -> tuple[int, int]:
    """The frame at the nearest size that is served, a little larger or smaller; as it is where none is near or all arrives as sent.

    A size between two rungs is scaled down on arrival anyway, so its pixels and their bits are sent for nothing.
    """
    side = min(size)
    served = rungs(placement.handling)
    if not served or any(abs(rung - side) <= NEAR_RUNG_PX for rung in served):
        return size
    possible = [
        rung for rung in served if rung < side or (rung <= side * MOST_ENLARGED and _fits(placement, shape, rung))
    ]
    if not possible:
        return size
    width, height = frame_of_shape(shape, min(possible, key=lambda rung: abs(math.log(rung / side))))
    return even(width), even(height)


def _fits(placement: Placement, shape: Fraction, side: int) -> bool:
    width, height = frame_of_shape(shape, side)
    return _cap_scale(placement, width - 1, height - 1) == 1  # to the pixel that even sides may spare


def _largest_inside(whole: Rect, shape: Fraction) -> tuple[Fraction, Fraction]:
    width = min(Fraction(whole.width), whole.height * shape)
    return width, width / shape


def _smallest_around(whole: Rect, shape: Fraction) -> tuple[Fraction, Fraction]:
    width = max(Fraction(whole.width), whole.height * shape)
    return width, width / shape


def _crop(whole: Rect, window: tuple[Fraction, Fraction], ratio: Fraction, focus: Focus) -> Rect:
    """The part of the picture in the window, around the focus, even and inside the picture."""
    if window[0] <= whole.width and window[1] <= whole.height:
        width, height = _even_pair(window, ratio, most=(whole.width, whole.height))
    else:
        width, height = (min(side, even(part)) for side, part in ((whole.width, window[0]), (whole.height, window[1])))

    def place(start: int, side: int, part: int, share: float) -> int:
        at = 2 * round((side * share - part / 2) / 2)
        return start + min(max(0, at), side - part)

    return Rect(
        x=place(whole.x, whole.width, width, focus.x),
        y=place(whole.y, whole.height, height, focus.y),
        width=width,
        height=height,
    )


SHORTER_PX, SHORTER_SHARE = 16, Fraction(1, 50)
"""How much of a crop's height may be given up so that its even sides come closer to the wanted ratio."""


def _even_pair(window: tuple[Fraction, Fraction], ratio: Fraction, *, most: tuple[int, int]) -> tuple[int, int]:
    """Even sides near the window's whose ratio is the wanted one within half a pixel, where some such are near.

    The nearest even number may be a whole pixel off, half a pixel at either edge. The first pair, from the largest down,
    that is at most half a pixel off in all is taken, and failing that the nearest.
    """
    top = min(even(window[1]), most[1])
    lowest = max(2, top - max(6, min(SHORTER_PX, int(top * SHORTER_SHARE))))
    best: tuple[Fraction, int, int] | None = None
    for height in range(top, lowest - 1, -2):
        width = min(even(height * ratio), most[0])
        off = abs(width - height * ratio)
        if best is None or off < best[0]:
            best = off, width, height
        if off <= Fraction(1, 2):
            break
    return (best[1], best[2]) if best else (2, 2)


def _picture_size(width: int, height: int, crop: Rect, *, beside: bool, above: bool) -> tuple[int, int]:
    """The picture in the frame: all of it, or less along the side where the window reaches beyond the picture."""
    if beside:
        return min(width, even(Fraction(crop.width * height, crop.height))), height
    if above:
        return width, min(height, even(Fraction(crop.height * width, crop.width)))
    return width, height
