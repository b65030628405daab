"""The last look before packing: the master beside what its parcel will be, and what of it changes."""

from __future__ import annotations

from fractions import Fraction
from pathlib import PurePath

from ..master.facts import ColourTags, FileFacts
from ..plan.choices import Method
from ..plan.packing_slip import colour_text
from ..plan.plan import FieldOrder, Plan
from ..trade.codecs import name_of
from ..trade.containers import CONTAINER_NAMES
from ..values import Model, mbps_text, minutes_text, rate_text, shape_text, size_text

NONE = "none"
CHANNELS = {1: "mono", 2: "stereo"}


class LastLookRow(Model):
    """One matter: how the master has it, how the parcel will, and whether that is another thing. A figure that is always another one,
    such as the size, is no change."""

    matter: str
    master: str
    parcel: str
    changes: bool


def last_look(facts: FileFacts, plan: Plan, *, expected_bytes: int) -> tuple[LastLookRow, ...]:
    """Master and parcel side by side, in reading order; of a file sent as it is every row is the same."""
    length = minutes_text(facts.duration_s), minutes_text(plan.excerpt.duration_s)
    container = (_container(facts, plan), CONTAINER_NAMES[plan.container.value])
    if plan.method.value is Method.UNTOUCHED:
        length, container = (length[0], length[0]), (container[0], container[0])
    rows = [*_picture(facts, plan), *_sound(facts, plan), _row("Length", *length), _row("Container", *container)]
    rows.append(LastLookRow(matter="Size", master=size_text(facts.size_bytes), parcel=f"about {size_text(expected_bytes)}", changes=False))
    if facts.chapters and plan.chapters.value is not None:
        rows.append(_row("Chapters", str(facts.chapters), str(facts.chapters) if plan.chapters.value else "left out"))
    if facts.captions and plan.captions.value is not None:
        rows.append(_row("Captions", "inside", str(plan.captions.value)))
    return tuple(rows)


def _row(matter: str, master: str, parcel: str) -> LastLookRow:
    return LastLookRow(matter=matter, master=master, parcel=parcel, changes=master != parcel)


def _picture(facts: FileFacts, plan: Plan) -> list[LastLookRow]:
    """Rows of the picture; where the packets are the master's own they tell the same on both sides."""
    video = facts.video
    if video is None or plan.video is None:
        return [_row("Picture", f"{video.display_width}×{video.display_height}", NONE)] if video else []
    bits = mbps_text(video.bitrate_bps) if video.bitrate_bps else "not stated"
    size = f"{video.display_width}×{video.display_height}"
    shape = shape_text(Fraction(video.display_width, video.display_height))
    scan, coded = str(video.scan), name_of(video.codec)
    samples, colour = f"{video.bit_depth} bit {video.chroma}", _colour(video.colour)
    rate = rate_text(video.frame_rate) + (", variable" if video.variable_rate else "")
    if plan.copied:
        same = (("Frame", size), ("Frame rate", rate), ("Codec", coded), ("Bit rate", bits), ("Colour", colour))
        return [_row(matter, value, value) for matter, value in same]
    planned = plan.video
    framing = planned.framing.value
    deep = "10 bit" if planned.deep else "8 bit"
    chroma = "4:2:2" if "422" in planned.pixel_format.value else "4:4:4" if "444" in planned.pixel_format.value else "4:2:0"
    wanted = shape_text(framing.shape or Fraction(framing.width, framing.height))
    return [
        _row("Frame", f"{size}, {shape}", f"{framing.width}×{framing.height}, {wanted}"),
        _row("Frame rate", rate, rate_text(planned.frame_rate.value)),
        _row("Scan", scan, scan if planned.fields_kept or planned.deinterlace.value is FieldOrder.NONE else "progressive"),
        _row("Codec", coded, name_of(planned.codec.value)),
        LastLookRow(matter="Bit rate", master=bits, parcel=mbps_text(planned.target_bps.value), changes=False),
        _row("Samples", samples, f"{deep} {chroma}"),
        _row("Colour", colour, colour_text(planned.colour.value)),
    ]


def _sound(facts: FileFacts, plan: Plan) -> list[LastLookRow]:
    sound, planned = facts.audio, plan.audio
    if sound is None:
        return []
    before = f"{name_of(sound.codec)}, {CHANNELS.get(sound.channels, sound.layout)}, {sound.sample_rate_hz / 1000:g} kHz"
    if planned is None:
        whole = plan.method.value in (Method.UNTOUCHED, Method.REWRAP)
        return [_row("Sound", before, before if whole else NONE)]
    channels = CHANNELS.get(planned.channels.value, f"{planned.channels.value} channels")
    rows = [_row("Sound", before, f"{name_of(planned.codec.value)}, {channels}, {planned.sample_rate_hz.value / 1000:g} kHz")]
    if sound.integrated_lufs is not None and planned.expected_lufs is not None:
        told = [f"{level:.1f} LUFS".replace("-", "−") for level in (sound.integrated_lufs, planned.expected_lufs)]
        rows.append(_row("Loudness", *told))
    return rows


def _container(facts: FileFacts, plan: Plan) -> str:
    """What the master is wrapped in. Some are only told apart by the file's ending, so the planned one counts where it may be that."""
    planned = CONTAINER_NAMES[plan.container.value]
    ending = PurePath(facts.name).suffix.lstrip(".").lower()
    named = next((name for key, name in CONTAINER_NAMES.items() if key == ending), "")
    if named and named in facts.container:
        return named
    return planned if planned in facts.container.split("/") else facts.container


def _colour(tags: ColourTags) -> str:
    return "untagged" if tags.untagged else colour_text(tags)
