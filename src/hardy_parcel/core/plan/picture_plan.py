"""Why the picture of a plan has its shape, size, scan, samples and colour."""

from __future__ import annotations

from fractions import Fraction

from ..master.facts import FramingMode, MasterFacts, Scan, VideoFacts
from ..sheets.ladder import arriving_side
from ..sheets.sheet import Destination
from ..stamps import Because, Chosen, Source, chosen
from ..trade.codecs import CODECS, name_of
from ..trade.names import Codec
from ..values import shape_text
from .choices import Choices
from .framing import Framing
from .plan import FieldOrder


def deinterlace(facts: MasterFacts) -> Chosen[FieldOrder]:
    """Whether and how fields are made into pictures: what was measured interlaced is, unless the creator wants it otherwise."""
    orders = {Scan.TOP_FIRST: FieldOrder.TOP_FIRST, Scan.BOTTOM_FIRST: FieldOrder.BOTTOM_FIRST}
    wanted, measured = facts.mending.deinterlace, facts.measured_scan
    if wanted in orders:
        return chosen(
            orders[wanted], "deinterlaced", "your choice; each field gives what a whole picture needs", Source.CREATOR
        )
    if wanted is None and measured in orders:
        why = f"measured {measured}, and screens show whole pictures"
        return chosen(orders[measured], "deinterlaced", why, Source.MEASURED)
    if facts.scan in orders:
        flagged = "not measured yet" if measured is None else "but nothing moved enough to measure it"
        why = "your choice; fields stay woven into each other" if wanted else f"flagged interlaced, {flagged}"
        return chosen(
            FieldOrder.NONE,
            "fields_kept",
            f"{why}; lines are packed as they are",
            Source.CREATOR if wanted else Source.MASTER,
        )
    return chosen(FieldOrder.NONE, "not_deinterlaced", "the pictures are whole already", Source.MASTER)


def scaler(framing: Framing) -> Chosen[str]:
    """How the picture is brought to its size; `benchmarks.scalers` measures what each keeps and how far an edge overshoots."""
    scale = framing.enlargement()
    if 0.999 <= scale <= 1.001:
        return chosen("lanczos", "not_scaled", "nothing is scaled; colour alone may be resampled", Source.PROGRAM)
    if scale < 1:
        why = "keeps most detail of those measured; an edge overshoots by under 2 % of its height"
        return chosen("lanczos", "scaled_down", why, Source.MEASURED)
    why = "keeps most detail of those measured; an edge overshoots by a tenth of its height"
    return chosen("lanczos", "scaled_up", why, Source.MEASURED)


SHARPEN = 0.35
"""Luma of a 5×5 unsharp mask after scaling: enough to be seen at 1:1, too little for bright rims around edges."""


def sharpening(framing: Framing, choices: Choices) -> Chosen[float | None]:
    """How much is sharpened, after scaling where there is any; None where nobody asked."""
    if not choices.sharpen:
        return chosen(None, "not_sharpened", "nothing is sharpened unless you ask for it", Source.PROGRAM)
    scaled = framing.enlargement()
    when = (
        ", after scaling down"
        if scaled < 0.999
        else ", after enlarging"
        if scaled > 1.001
        else ", at the master's own size"
    )
    return chosen(SHARPEN, "creator_sharpened", f"your choice; lightly{when}", Source.CREATOR)


def framing_because(
    framing: Framing, facts: MasterFacts, destination: Destination, choices: Choices, frame_rate: Fraction
) -> Because:
    """Why the frame has its size and shape, and which size a viewer gets."""
    arrives = arriving_side(destination, width=framing.width, height=framing.height, frame_rate=frame_rate)
    because = _size_because(framing, facts, destination, choices)
    if arrives is None:
        return because
    return because.model_copy(update={"sentence": f"{because.sentence}; arrives as {arrives} lines"})


def _size_because(framing: Framing, facts: MasterFacts, destination: Destination, choices: Choices) -> Because:
    because = _shape_because(framing, facts, destination, choices)
    if choices.short_side_px:
        because = _chosen_size_because(framing, facts, because, choices.short_side_px, destination)
    if facts.mending.remove_bars is None:
        return because
    return because.model_copy(update={"sentence": f"{because.sentence}; baked-in bars removed"})


def _chosen_size_because(
    framing: Framing, facts: MasterFacts, because: Because, wanted: int, destination: Destination
) -> Because:
    scale, side = framing.enlargement(), min(framing.width, framing.height)
    how = (
        f"enlarged {scale:.2f} ×"
        if scale > 1.001
        else f"scaled to {scale:.0%}"
        if scale < 0.999
        else "the master's own size"
    )
    if abs(side - wanted) > 1:
        return because.model_copy(
            update={"sentence": f"{wanted} is more than {destination.sheet_name} takes; {because.sentence}"}
        )
    shape = "" if framing.mode is None else f"; {_stands(framing, facts)}"
    return Because(code="creator_size", sentence=f"your choice, {how}{shape}", source=Source.CREATOR)


def _shape_because(framing: Framing, facts: MasterFacts, destination: Destination, choices: Choices) -> Because:
    name, video = destination.sheet_name, facts.video
    master = f"{video.display_width}×{video.display_height}"
    scale = framing.enlargement()
    if framing.mode is not None:
        shows = f"{name} shows {_shape(framing)}" if choices.shape is None else f"{_shape(framing)} is your choice"
        return _framed(framing, facts, shows, chosen=bool(choices.framing or facts.mending.framing))
    if scale < 0.999:
        return Because(
            code="size_capped", sentence=f"the largest {name} takes; master is {master}", source=Source.SHEET
        )
    if (framing.crop.width, framing.crop.height) != (video.display_width, video.display_height):
        if framing.crop.width < video.display_width - 1 or framing.crop.height < video.display_height - 1:
            return Because(
                code="size_as_active", sentence=f"the active picture of the master ({master})", source=Source.MEASURED
            )
        return Because(
            code="size_made_even", sentence=f"as the master ({master}), less an odd line", source=Source.STANDARD
        )
    squared = video.sample_aspect_ratio != 1
    turned = video.rotation_deg % 360 != 0
    extra = " with square pixels" if squared else ""
    extra += ", turned upright" if turned else ""
    return Because(code="size_as_master", sentence=f"as the master{extra}", source=Source.MASTER)


def _framed(framing: Framing, facts: MasterFacts, why: str, *, chosen: bool) -> Because:
    """Why a picture stands so in a frame of another shape; `chosen` where the creator said how."""
    code = "filled" if framing.mode is FramingMode.FILL else "blurred" if framing.blurred else "fitted"
    source = Source.CREATOR if chosen else Source.SHEET
    return Because(code=code, sentence=f"{why}; {_stands(framing, facts)}", source=source)


def _stands(framing: Framing, facts: MasterFacts) -> str:
    """How the picture stands in a frame of another shape."""
    scale, kept_share = framing.enlargement(), framing.kept_area(width=facts.active.width, height=facts.active.height)
    size = f", enlarged {scale:.2f} ×" if scale > 1.001 else f", scaled to {scale:.0%}" if scale < 0.999 else ""
    part = "the whole picture" if kept_share > 0.999 else f"{kept_share:.0%} of the picture"
    if framing.mode is FramingMode.FILL:
        return f"{part} is kept and fills it{size}"
    if framing.blurred:
        return f"{part} stands over a blurred copy of itself{size}"
    return f"{part} fits inside{' with bars' if framing.bars else ''}{size}"


def _shape(framing: Framing) -> str:
    return shape_text(framing.shape if framing.shape else Fraction(framing.width, framing.height))


def samples(video: VideoFacts, codec: Codec, destination: Destination) -> tuple[str, Chosen[str]]:
    """The profile, and the samples' depth and chroma: 10 bit goes through where the codec and the destination take it."""
    traits, name, source = CODECS[codec], destination.sheet_name, Source.STANDARD
    recorded = f"{video.bit_depth} bit {video.chroma}"
    subsampling = "4:2:2" if codec == "vc3" else "4:2:0"
    if video.bit_depth > 8 and traits.deep and codec in destination.placement.ten_bit:
        profile, pixel_format = traits.deep
        why = "as the master's, so that slow gradients do not band"
        if video.bit_depth > 10:
            why = f"the most that is packed; master is {recorded}"
        return profile, chosen(pixel_format, "ten_bit", f"10 bit {subsampling}, {why}", Source.MASTER)
    if video.bit_depth > 8:
        hinders = (
            f"{name} takes no 10 bit of {name_of(codec)}"
            if traits.deep
            else f"{name_of(codec)} is packed in 8 bit here"
        )
        why = f"8 bit {subsampling}, dithered from the master's {recorded}; {hinders}"
        return traits.profile, chosen(traits.pixel_format, "dithered", why, Source.SHEET)
    if codec == "vc3":
        why = "what this codec holds; colour keeps its lines"
    elif video.chroma != subsampling:
        why = f"what every decoder of {name_of(codec)} reads; fine coloured lines of the master's {recorded} soften"
    else:
        why, source = "as the master", Source.MASTER
    return traits.profile, chosen(traits.pixel_format, "pixel_format", f"8 bit {subsampling}, {why}", source)
