"""Why the picture of a plan has its shape, size, scan, samples and colour."""

from __future__ import annotations

from .facts import ColourTags, MasterFacts, Scan, VideoFacts
from .framing import Framing, FramingMode
from .plan import Because, Choices, Chosen, FieldOrder, Source, chosen
from .sheets import Codec, Destination


def deinterlace(facts: MasterFacts) -> Chosen[FieldOrder]:
    """Whether and how fields are made into pictures: only what was measured interlaced ever is."""
    if facts.mending.deinterlace is Scan.TOP_FIRST:
        return chosen(FieldOrder.TOP_FIRST, "deinterlaced", "your choice; measured top field first", Source.CREATOR)
    if facts.mending.deinterlace is Scan.BOTTOM_FIRST:
        return chosen(FieldOrder.BOTTOM_FIRST, "deinterlaced", "your choice; measured bottom field first", Source.CREATOR)
    return chosen(FieldOrder.NONE, "not_deinterlaced", "pictures are packed line for line", Source.MASTER)


def framing_because(framing: Framing, facts: MasterFacts, destination: Destination, choices: Choices) -> Because:
    """Why the frame has its size and shape."""
    because = _shape_because(framing, facts.video, destination)
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


def _shape_because(framing: Framing, video: VideoFacts, destination: Destination) -> Because:
    name = destination.sheet_name
    master = f"{video.display_width}×{video.display_height}"
    scale = framing.enlargement()
    if framing.mode is FramingMode.FILL:
        kept = framing.kept_area(display_width=video.display_width, display_height=video.display_height)
        size = f", enlarged {scale:.2f} ×" if scale > 1.001 else f", scaled to {scale:.0%}" if scale < 0.999 else ""
        sentence = f"{name} shows {_shape(destination)}; the centre fills it, {kept:.0%} of the picture is kept{size}"
        return Because(code="filled", sentence=sentence, source=Source.CREATOR)
    if framing.mode is FramingMode.FIT:
        sentence = f"{name} shows {_shape(destination)}; the whole picture fits inside with bars"
        return Because(code="fitted", sentence=sentence, source=Source.SHEET)
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


def _shape(destination: Destination) -> str:
    shape = destination.placement.usual_shape
    return f"{shape.numerator}:{shape.denominator}"


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
