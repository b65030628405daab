"""Send as it is: when a master is taken untouched, or re-wrapped without being encoded again (rules §3)."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from ..master.facts import INTERLACED, Excerpt, MasterFacts, active_picture
from ..sheets.sheet import Destination
from ..stamps import Because, Chosen, Source, chosen
from ..trade.codec_levels import TABLES, above
from ..trade.codecs import CODECS, SOUND_CODECS, name_of
from ..trade.containers import CONTAINER_NAMES
from ..trade.names import Codec, Container, SoundCodec
from ..trade.rate_control import RateControl
from ..values import Rect, mbps_text, rate_text, seconds_text, size_text
from .choices import Choices, Method
from .colour_plan import colours
from .framing import Framing
from .plan import AudioPlan, FieldOrder, VideoPlan

ENDS_ANYWHERE: tuple[Container, ...] = ("mp4", "mov")
"""Containers whose edit list can hide pictures at the end that earlier ones are made from."""
HIDDEN_SETS = "hev1"
"""HEVC in MP4 and MOV whose parameter sets may stand in the stream alone."""
END_SPARE_S = Fraction(1, 50)
"""An out point this near to the end cuts nothing."""


def sound_codec_of(name: str) -> SoundCodec | None:
    """Our name of a sound codec as the facts have it; None for one that no sheet can name."""
    if name.startswith("pcm_"):
        return "pcm"
    return name if name in SOUND_CODECS else None


def container_of(facts: MasterFacts) -> Container | None:
    """Our name of the master's container, by its format and its file name where the format serves several."""
    ending = facts.name.rsplit(".", 1)[-1].lower()
    family = facts.container.lower()
    if "mp4" in family or "mov" in family:
        return "mov" if ending in ("mov", "qt") else "mp4"
    if "mkv" in family or "webm" in family:
        return "webm" if ending == "webm" else "mkv"
    return None


def against(facts: MasterFacts, destination: Destination, excerpt: Excerpt, *, sound_too: bool = True) -> list[str]:
    """Why the master cannot go as it is, or without `sound_too` its picture; empty when it can, untouched or re-wrapped."""
    found = [
        *_treated(facts, excerpt, sound_too),
        *_not_taken(facts, destination, sound_too),
        *_over_limits(facts, destination, excerpt),
    ]
    wrapped = _wrapping(facts, destination, sound_too)
    if ends_early(facts, excerpt) and wrapped and wrapped[1] not in ENDS_ANYWHERE:
        found.append(f"{CONTAINER_NAMES[wrapped[1]]} cannot end before the master does without encoding")
    return found


def ends_early(facts: MasterFacts, excerpt: Excerpt) -> bool:
    """Whether the out point lies before the master's end."""
    return excerpt.out_s < facts.duration_s - END_SPARE_S


def is_cut(facts: MasterFacts, excerpt: Excerpt) -> bool:
    """Whether less than the whole master is sent."""
    return excerpt.in_s > 0 or ends_early(facts, excerpt)


def goes_unasked(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> bool:
    """Whether the master goes as it is without anybody's asking: where nothing re-encodes it, it is taken, and nothing is wanted of it."""
    asked = choices.model_copy(update={"focus": None, "max_bytes": None, "method": None, "captions": None})
    fits = choices.max_bytes is None or facts.size_bytes <= choices.max_bytes
    free = choices.method is None and asked == Choices() and fits and not destination.placement.re_encodes
    return free and destination.placement.picture and not against(facts, destination, excerpt)


def _treated(facts: MasterFacts, excerpt: Excerpt, sound_too: bool) -> list[str]:
    """What the creator wants that only encoding again can give."""
    mending, found = facts.mending, []
    if not facts.video.keyframe_at(excerpt.in_s):
        near = " and ".join(seconds_text(one) for one in facts.video.keyframes_around(excerpt.in_s))
        where = f"; the nearest are at {near}" if near else ", and its file has no index of them"
        found.append(f"without encoding it can only begin at a keyframe{where}")
    wanted = (
        (mending.remove_bars, "baked-in bars are to be removed"),
        (mending.deinterlace in INTERLACED, "it is to be deinterlaced"),
        (mending.constant_rate, "its rate is to be made constant"),
        (mending.turn_down and sound_too, "its sound is to be turned down"),
    )
    return found + [words for asked, words in wanted if asked]


def _not_taken(facts: MasterFacts, destination: Destination, sound_too: bool) -> list[str]:
    video, place, name, found = facts.video, destination.placement, destination.sheet_name, []
    if not place.picture:
        return [f"{name} takes sound only"]
    if video.codec not in place.codecs:
        found.append(f"{name} does not take {name_of(video.codec)}")
    if facts.audio and sound_too:
        sound = sound_codec_of(facts.audio.codec)
        if sound not in place.audio.codecs:
            found.append(f"{name} does not take {name_of(facts.audio.codec)} sound")
    if not found and _wrapping(facts, destination, sound_too) is None:
        found.append(f"{name} takes no container that holds these streams")
    if not place.accepts_shape(Fraction(video.display_width, video.display_height)):
        found.append(f"its shape is not one that {name} takes")
    if max(video.display_width, video.display_height) > place.max_long_side_px or (
        min(video.display_width, video.display_height) > place.max_short_side_px
    ):
        found.append(f"it is larger than {name} takes")
    if video.frame_rate > place.max_frame_rate:
        found.append(f"{rate_text(video.frame_rate)} frames/s is more than {name} takes")
    if video.variable_rate:
        found.append("its frame rate varies")
    if facts.scan in INTERLACED:
        found.append("it is interlaced")
    if video.sample_aspect_ratio != 1:
        found.append("its pixels are not square")
    if video.colour.hdr:
        found.append("it is HDR")
    if video.bit_depth > 8 and video.codec not in place.ten_bit:
        found.append(f"{name} takes no {video.bit_depth} bit of {name_of(video.codec)}")
    if video.codec != "vc3" and video.chroma != "4:2:0" and not place.re_encodes:
        found.append(f"its {video.chroma} is not what {name}'s machines play")
    return found


def _over_limits(facts: MasterFacts, destination: Destination, excerpt: Excerpt) -> list[str]:
    place, name, found = destination.placement, destination.sheet_name, []
    share = float(excerpt.duration_s / facts.duration_s) if facts.duration_s else 1.0
    if facts.size_bytes * min(1.0, share) > place.max_bytes:
        found.append(
            f"its {size_text(facts.size_bytes * min(1.0, share))} is more than the {size_text(place.max_bytes)} that {name} takes"
        )
    if excerpt.duration_s > place.max_duration_s:
        found.append(f"it is longer than the {place.max_duration_s} s that {name} takes")
    codec: Codec | None = facts.video.codec if facts.video.codec in TABLES else None
    most = place.max_level.get(codec) if codec else None
    if codec and most and facts.video.level and above(codec, facts.video.level, most):
        found.append(f"its level {facts.video.level} is above the {most} that {name}'s machines play")
    rate = facts.video.bitrate_bps
    if place.peak_bps and rate and rate > place.peak_bps and codec:
        found.append(f"its {mbps_text(rate)} is above the peak rate that {name}'s machines play")
    return found


def _wrapping(facts: MasterFacts, destination: Destination, sound_too: bool = True) -> tuple[Method, Container] | None:
    """Untouched where the container is taken and its players will find the picture, else the first that is and that holds the streams."""
    own, place = container_of(facts), destination.placement
    if own in place.containers and not hidden_sets(facts, destination):
        return Method.UNTOUCHED, own
    codec = facts.video.codec
    sound = sound_codec_of(facts.audio.codec) if facts.audio and sound_too else None
    if codec not in CODECS or facts.video.rotation_deg % 360:  # a turn lives in the container and is easily lost
        return None
    for container in sorted(CODECS[codec].containers, key=lambda one: one != own):
        if container in place.containers and (sound is None or container in SOUND_CODECS[sound].beside):
            return Method.REWRAP, container
    return None


def hidden_sets(facts: MasterFacts, destination: Destination) -> bool:
    """Whether an HEVC picture stands in its file as `hev1`, which some of the machines that play it as it comes do not read."""
    return facts.video.sample_entry == HIDDEN_SETS and not destination.placement.re_encodes


def best_method(
    facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt
) -> tuple[Method, Container]:
    """How the master goes as it is; what is cut or loses its sound is re-wrapped, and a creator may re-wrap what could go untouched."""
    kept = choices.method is Method.SOUND_ANEW and choices.sound and facts.audio is not None
    found = _wrapping(facts, destination, not kept) or (Method.UNTOUCHED, container_of(facts) or "mp4")
    if kept:
        return Method.SOUND_ANEW, found[1]
    moved = choices.method is Method.REWRAP or is_cut(facts, excerpt) or not choices.sound
    return (Method.REWRAP, found[1]) if moved else found


def recorded_pictures(facts: MasterFacts, excerpt: Excerpt) -> int:
    """Pictures that are sent, none of them left out or repeated."""
    if is_cut(facts, excerpt):
        return max(1, round(excerpt.duration_s * facts.video.frame_rate))
    return facts.video.pictures or max(1, round(facts.duration_s * facts.video.frame_rate))


def recorded_picture(facts: MasterFacts, frames: int) -> VideoPlan:
    """The picture's plan when nothing of it is changed: every value is the master's."""
    video = facts.video
    because = Because(code="as_it_is", sentence="as it is in the master", source=Source.MASTER)
    size = video.display_width, video.display_height
    whole = Rect(x=0, y=0, width=size[0], height=size[1])

    def own(value: object) -> Chosen[Any]:
        return Chosen(value=value, because=because)

    return VideoPlan(
        codec=own(video.codec if video.codec in CODECS else "h264"),
        profile=own(video.profile or "not stated"),
        level=own(video.level),
        framing=own(Framing(mode=None, width=size[0], height=size[1], crop=whole, picture=whole)),
        deinterlace=own(FieldOrder.NONE),
        pixel_format=own(video.pixel_format),
        frame_rate=own(video.frame_rate),
        keep_every=Fraction(1),
        frames=frames,
        rate_control=own(RateControl.RECORDED),
        target_bps=own(video.bitrate_bps or facts.bitrate_bps),
        ceiling_bps=own(None),
        buffer_bits=own(None),
        quality=own(None),
        keyframe_interval_frames=own(None),
        effort=own(None),
        colour=own(video.colour),
        source_matrix=video.colour.matrix or "bt709",
        source_range=video.colour.range or "tv",
        scaler=own(None),
        sharpen=own(None),
    )


def whole_picture(facts: MasterFacts) -> VideoPlan:
    """How a master's pictures are read for looking at them: all of the picture, upright, its colours as its tags or our guess say."""
    video, because = (
        facts.video,
        Because(code="to_look_at", sentence="so that it can be looked at", source=Source.PROGRAM),
    )
    found = colours(facts)
    part = active_picture(display_width=video.display_width, display_height=video.display_height)

    def so(value: object) -> Chosen[Any]:
        return Chosen(value=value, because=because)

    inside = part.model_copy(update={"x": 0, "y": 0})
    return recorded_picture(facts, 1).model_copy(
        update={
            "framing": so(Framing(mode=None, width=part.width, height=part.height, crop=part, picture=inside)),
            "pixel_format": so("yuv420p"),
            "scaler": so("bicubic"),
            "colour": found.tags,
            "source_matrix": found.read_as.matrix,
            "source_range": found.read_as.range,
            "source_primaries": found.read_as.primaries,
            "source_transfer": found.read_as.transfer,
        }
    )


def recorded_sound(facts: MasterFacts) -> AudioPlan | None:
    """The sound's plan when nothing of it is changed."""
    sound = facts.audio
    if sound is None:
        return None
    because = Because(code="as_it_is", sentence="as it is in the master", source=Source.MASTER)

    def own(value: object) -> Chosen[Any]:
        return Chosen(value=value, because=because)

    return AudioPlan(
        codec=own(sound_codec_of(sound.codec) or "aac"),
        bitrate_bps=own(sound.bitrate_bps),
        sample_rate_hz=own(sound.sample_rate_hz),
        channels=own(sound.channels),
        gain_db=own(0.0),
        copied=True,
        expected_lufs=sound.integrated_lufs,
        expected_peak_dbtp=sound.true_peak_dbtp,
        master_lufs=sound.integrated_lufs,
        master_peak_dbtp=sound.true_peak_dbtp,
    )


def method_because(
    method: Method,
    container: Container,
    destination: Destination,
    *,
    cut: bool = False,
    silent: bool = False,
    hidden: bool = False,
) -> Chosen[Method]:
    """The method with its reason; `hidden` says that the picture's parameter sets were not where every player finds them."""
    name = destination.sheet_name
    if method is Method.SOUND_ANEW:
        return chosen(
            method,
            "picture_kept",
            "the picture's packets are moved as they are and only the sound is made anew",
            Source.SHEET,
        )
    if cut or silent:
        parts = "cut to the excerpt" if cut else "left without its sound"
        parts += " and left without its sound" if cut and silent else ""
        return chosen(
            method, "moved", f"{name} takes these streams; they are moved without encoding, {parts}", Source.SHEET
        )
    if method is Method.UNTOUCHED and not destination.placement.re_encodes:
        why = f"{name} takes the master and plays it as it comes, so encoding it again would only take from it"
        return chosen(method, "taken_untouched", why, Source.SHEET)
    if method is Method.UNTOUCHED:
        return chosen(
            method,
            "taken_untouched",
            f"{name} takes the master untouched, so no generation is lost on our side",
            Source.SHEET,
        )
    if hidden:
        why = f"{name} plays these streams as they come; they are moved without encoding, since not every player reads {HIDDEN_SETS}"
        return chosen(method, "described_anew", why, Source.STANDARD)
    sentence = f"{name} takes these streams in {CONTAINER_NAMES[container]}; they are moved there without encoding"
    return chosen(method, "taken_rewrapped", sentence, Source.SHEET)
