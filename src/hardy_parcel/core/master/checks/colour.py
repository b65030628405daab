"""Colour tags against each other, against the frame size and against the picture's levels."""

from __future__ import annotations

from ..facts import ColourTags, VideoFacts
from .evidence import Levels

# Families of H.273 (07/2021) names that belong together: SD per BT.601, HD per BT.709, wide gamut per BT.2020.
SD = frozenset({"bt470m", "bt470bg", "smpte170m", "smpte240m", "fcc"})
WIDE_PRIMARIES = frozenset({"bt2020", "smpte431", "smpte432"})
HDR_TRANSFERS = frozenset({"smpte2084", "arib-std-b67"})

DEEP_SHARE = 0.004
DEEP_PICTURES = 0.25
PILED_SHARE = 0.004
RINGING = 0.12
"""Of the pictures piled up at a limited code, a lossy codec rings this share over it."""


def contradiction(video: VideoFacts) -> str | None:
    """What in the tags cannot be true together, as a phrase; None when they agree or say too little."""
    tags, held = video.colour, video.container_colour
    if held:
        for name in ("primaries", "transfer", "matrix", "range"):
            outside, inside = getattr(held, name), getattr(tags, name)
            if outside and inside and outside != inside:
                return f"the container says {name} {outside}, the picture stream {inside}"
    if tags.transfer in HDR_TRANSFERS and tags.primaries and tags.primaries not in WIDE_PRIMARIES:
        return f"HDR transfer {tags.transfer} with {tags.primaries} primaries"
    if tags.primaries and tags.matrix:
        families = _family(tags.primaries), _family(tags.matrix)
        if None not in families and families[0] != families[1] and tags.primaries not in ("smpte431", "smpte432"):
            return f"{tags.primaries} primaries with the {tags.matrix} matrix"
    if tags.matrix == "gbr" and video.chroma != "RGB" and not video.pixel_format.startswith("gbr"):
        return "an RGB matrix on a picture that is not RGB"
    if _family(tags.matrix) == "SD" and _family(tags.primaries) in ("SD", None) and min(_lines(video)) >= 720:
        return f"an HD picture with the SD matrix {tags.matrix}"
    return None


def wide_gamut(tags: ColourTags) -> bool:
    """Colours beyond BT.709 in a standard-range film."""
    return not tags.hdr and tags.primaries in WIDE_PRIMARIES


def range_contradiction(video: VideoFacts, levels: Levels) -> str | None:
    """Levels that the stated range cannot have, as a phrase.

    Cameras often record whites above limited range, so only blacks below it speak against a limited tag. A full
    tag is doubted when nothing uses the outer codes while blacks or whites pile up at the limited ones.
    """
    full = video.colour.range == "pc"
    if not full and levels.below_limited >= DEEP_SHARE and levels.pictures_below >= DEEP_PICTURES:
        stated = "flagged limited" if video.colour.range else "untagged, which means limited"
        return f"{stated}, but {levels.below_limited:.1%} of the picture is darker than limited black"
    black, white = levels.at_limited_black, levels.at_limited_white
    unused = levels.below_limited <= RINGING * black and levels.above_limited <= RINGING * max(black, white)
    if full and unused and black >= PILED_SHARE and black + white > 2 * PILED_SHARE:
        return "flagged full, but the picture keeps within limited range, its blacks at 16"
    return None


def _lines(video: VideoFacts) -> tuple[int, int]:
    return video.coded_width, video.coded_height


def _family(name: str | None) -> str | None:
    if name is None:
        return None
    if name in SD:
        return "SD"
    if name.startswith("bt2020"):
        return "wide"
    return "HD" if name == "bt709" else None
