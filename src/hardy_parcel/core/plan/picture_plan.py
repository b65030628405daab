"""Why the picture of a plan has its shape, size, scan, samples and colour."""

from __future__ import annotations

from fractions import Fraction

from ..master.facts import ColourTags, MasterFacts, Scan, VideoFacts
from ..sheets.sheet import Destination
from ..stamps import Because, Chosen, Source, chosen
from ..trade.names import Codec
from ..values import shape_text
from .choices import Choices
from .framing import Framing, FramingMode
from .plan import FieldOrder


def deinterlace(facts: MasterFacts) -> Chosen[FieldOrder]:
    """Whether and how fields are made into pictures: only what was measured interlaced ever is."""
    if facts.mending.deinterlace is Scan.TOP_FIRST:
        return chosen(FieldOrder.TOP_FIRST, "deinterlaced", "your choice; measured top field first", Source.CREATOR)
    if facts.mending.deinterlace is Scan.BOTTOM_FIRST:
        return chosen(FieldOrder.BOTTOM_FIRST, "deinterlaced", "your choice; measured bottom field first", Source.CREATOR)
    return chosen(FieldOrder.NONE, "not_deinterlaced", "pictures are packed line for line", Source.MASTER)


SHARPEN = 0.35
"""Luma of a 5×5 unsharp mask after scaling down: enough to be seen at 1:1, too little for bright rims around edges."""


def sharpening(framing: Framing, choices: Choices) -> Chosen[float]:
    """How much is sharpened after scaling down; never where nothing was scaled down."""
    if not choices.sharpen:
        return chosen(0.0, "not_sharpened", "nothing is sharpened unless you ask for it", Source.PROGRAM)
    if framing.enlargement() > 0.999:
        return chosen(0.0, "nothing_to_sharpen", "the picture is not scaled down, so there is nothing to put back", Source.STANDARD)
    return chosen(SHARPEN, "creator_sharpened", "your choice; lightly, after scaling down", Source.CREATOR)


def framing_because(framing: Framing, facts: MasterFacts, destination: Destination, choices: Choices) -> Because:
    """Why the frame has its size and shape."""
    because = _shape_because(framing, facts, destination, choices)
    if choices.short_side_px:
        because = _chosen_size_because(framing, because, choices.short_side_px, destination)
    if facts.mending.remove_bars is None:
        return because
    return because.model_copy(update={"sentence": f"{because.sentence}; baked-in bars removed"})


def _chosen_size_because(framing: Framing, because: Because, wanted: int, destination: Destination) -> Because:
    scale, side = framing.enlargement(), min(framing.width, framing.height)
    how = f"enlarged {scale:.2f} ×" if scale > 1.001 else f"scaled to {scale:.0%}" if scale < 0.999 else "the master's own size"
    if abs(side - wanted) > 1:
        return because.model_copy(update={"sentence": f"{wanted} is more than {destination.sheet_name} takes; {because.sentence}"})
    shape = "" if framing.mode is None else "; " + because.sentence.split("; ", 1)[-1]
    return Because(code="creator_size", sentence=f"your choice, {how}{shape}", source=Source.CREATOR)


def _shape_because(framing: Framing, facts: MasterFacts, destination: Destination, choices: Choices) -> Because:
    name, video = destination.sheet_name, facts.video
    master = f"{video.display_width}×{video.display_height}"
    scale = framing.enlargement()
    if framing.mode is not None:
        return _framed(framing, facts, f"{name} shows {_shape(framing)}" if choices.shape is None else f"{_shape(framing)} is your choice")
    if scale < 0.999:
        return Because(code="size_capped", sentence=f"the largest {name} takes; master is {master}", source=Source.SHEET)
    if (framing.crop.width, framing.crop.height) != (video.display_width, video.display_height):
        if framing.crop.width < video.display_width - 1 or framing.crop.height < video.display_height - 1:
            return Because(code="size_as_active", sentence=f"the active picture of the master ({master})", source=Source.MEASURED)
        return Because(
            code="size_made_even", sentence=f"as the master ({master}), less an odd line", source=Source.STANDARD
        )
    squared = video.sample_aspect_ratio != 1
    turned = video.rotation_deg % 360 != 0
    extra = " with square pixels" if squared else ""
    extra += ", turned upright" if turned else ""
    return Because(code="size_as_master", sentence=f"as the master{extra}", source=Source.MASTER)


def _framed(framing: Framing, facts: MasterFacts, why: str) -> Because:
    """Why a picture stands so in a frame of another shape."""
    scale, kept = framing.enlargement(), framing.kept_area(width=facts.active.width, height=facts.active.height)
    size = f", enlarged {scale:.2f} ×" if scale > 1.001 else f", scaled to {scale:.0%}" if scale < 0.999 else ""
    part = "the whole picture" if kept > 0.999 else f"{kept:.0%} of the picture"
    if framing.mode is FramingMode.FILL:
        return Because(code="filled", sentence=f"{why}; {part} is kept and fills it{size}", source=Source.CREATOR)
    if framing.blurred:
        return Because(code="blurred", sentence=f"{why}; {part} stands over a blurred copy of itself{size}", source=Source.CREATOR)
    return Because(code="fitted", sentence=f"{why}; {part} fits inside{' with bars' if framing.bars else ''}{size}", source=Source.SHEET)


def _shape(framing: Framing) -> str:
    return shape_text(framing.shape if framing.shape else Fraction(framing.width, framing.height))


def pixel_sentence(video: VideoFacts, codec: Codec) -> str:
    """Why the samples have their depth and chroma."""
    if codec == "vc3":
        return "what this codec holds; colour keeps its lines"
    if video.bit_depth > 8 or video.chroma != "4:2:0":
        return f"what viewers' players take; master is {video.bit_depth} bit {video.chroma}"
    return "as the master, and what viewers' players take"


def colour(video: VideoFacts) -> tuple[Chosen[ColourTags], str, str]:
    """Tags to write, and the master's matrix and range as the scaler must read them."""
    out = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
    sd = min(video.display_width, video.display_height) < 720
    guess = "smpte170m" if sd else "bt709"
    matrix = video.colour.matrix or guess
    colour_range = video.colour.range or "tv"
    if video.colour.untagged:
        name = "BT.601" if sd else "BT.709"
        said = f"master is untagged; {'SD' if sd else 'HD'} taken as {name}, a guess"
        code = "colour_guessed"
    elif matrix in ("smpte170m", "bt470bg"):
        said, code = "matrix converted from the master's BT.601", "colour_converted"
    else:
        said, code = "as the master's tags", "colour_as_master"
    if colour_range == "pc":
        said += "; full range brought to limited"
    source = Source.MASTER if code == "colour_as_master" else Source.STANDARD
    return chosen(out, code, said, source), matrix, colour_range
