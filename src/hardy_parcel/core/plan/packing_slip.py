"""The plan as a packing slip: setting, value, because, for screens and the command line alike."""

from __future__ import annotations

from typing import Any

from ..master.facts import ColourTags
from ..stamps import Because, Chosen
from ..trade.codecs import name_of
from ..trade.containers import CONTAINER_NAMES, FAST_START
from ..trade.rate_control import RateControl
from ..values import Model, mbps_text, rate_text, size_text
from .choices import Method
from .encoder_settings import effort_words
from .framing import BLUR_SHARE
from .plan import AudioPlan, CapOf, FieldOrder, Plan, VideoPlan


class SlipRow(Model):
    """One line of the slip; `exact` is what the encoder is told where the value is worded for reading.

    `keys` are the plan's values on this line. Where the creator chose another value than we would have, `instead` is
    ours and `instead_because` its reason.
    """

    setting: str
    value: str
    because: str
    source: str
    exact: str | None = None
    keys: tuple[str, ...] = ()
    instead: str | None = None
    instead_because: str | None = None


def packing_slip(plan: Plan, ours: Plan | None = None) -> tuple[SlipRow, ...]:
    """Every setting of the plan in reading order; with `ours`, the plan we would have made, also what differs."""
    rows = _picture(plan.video) if plan.video else _absent("Picture", plan.no_picture_because)
    rows += _sound(plan.audio) if plan.audio else _absent("Sound", plan.no_audio_because)
    rows = [*_sent(plan), *_limit(plan), *rows, *_wrapping(plan)]
    if ours is None:
        return tuple(rows)
    own = {row.setting: row for row in packing_slip(ours)}
    return tuple(_beside(row, own.get(row.setting)) for row in rows)


def _beside(row: SlipRow, own: SlipRow | None) -> SlipRow:
    if own is None or own.value == row.value:
        return row
    return row.model_copy(update={"instead": own.value, "instead_because": own.because})


def _row(setting: str, value: str, chosen: Chosen[Any], *keys: str, exact: str | None = None, because: str | None = None) -> SlipRow:
    reason = chosen.because
    return SlipRow(
        setting=setting, value=value, because=because or reason.sentence, source=str(reason.source), exact=exact, keys=keys
    )


def _joined(*values: Chosen[Any]) -> str:
    """The reasons of several values on one line, each told once."""
    return "; ".join(dict.fromkeys(value.because.sentence for value in values))


def _absent(setting: str, because: Because | None) -> list[SlipRow]:
    return [SlipRow(setting=setting, value="none", because=because.sentence, source=str(because.source))] if because else []


def _sent(plan: Plan) -> list[SlipRow]:
    return [] if plan.method.value is Method.ENCODE else [_row("Sent", str(plan.method.value), plan.method, "method")]


def _limit(plan: Plan) -> list[SlipRow]:
    """The size limit where it decided something or was chosen."""
    lowered = plan.video or plan.audio
    if plan.cap_of is not CapOf.CREATOR and not (lowered and lowered.under_cap):
        return []
    return [_row("Size limit", size_text(plan.size_cap.value), plan.size_cap, "size_cap", exact=f"{plan.size_cap.value} bytes")]


def _wrapping(plan: Plan) -> list[SlipRow]:
    container = plan.container.value
    start = f", index {'first' if plan.fast_start.value else 'last'}" if container in FAST_START else ""
    why = _joined(plan.container, *((plan.fast_start,) if start else ()))
    rows = [_row("Container", f"{CONTAINER_NAMES[container]}{start}", plan.container, "container", "fast_start", because=why)]
    if plan.chapters.value is not None:
        rows.append(_row("Chapters", "kept" if plan.chapters.value else "left out", plan.chapters, "chapters"))
    if plan.captions.value is not None:
        rows.append(_row("Captions", str(plan.captions.value), plan.captions, "captions"))
    return rows


def _picture(video: VideoPlan) -> list[SlipRow]:
    framing = video.framing.value
    crop, picture = framing.crop, framing.picture
    rows = [
        _row(
            "Frame size", f"{framing.width}×{framing.height}", video.framing, "framing",
            exact=f"crop {crop.width}×{crop.height} at {crop.x},{crop.y} "
            f"into {picture.width}×{picture.height} at {picture.x},{picture.y}"
            + (f", scaled {video.scaler.value}" if video.scaler.value else "")
            + (", over a copy blurred by " + f"{BLUR_SHARE:.0%} of the short side" if framing.blurred else ""),
        ),
        _row("Frame rate", rate_text(video.frame_rate.value), video.frame_rate, "frame_rate", "keep_every", "frames",
             exact=f"{video.frame_rate.value.numerator}/{video.frame_rate.value.denominator}, {video.frames} pictures"),
    ]
    if video.deinterlace.value is not FieldOrder.NONE or video.fields_kept:
        value = "interlaced" if video.fields_kept else "progressive"
        rows.append(_row("Scan", value, video.deinterlace, "deinterlace", exact=str(video.deinterlace.value)))
    if video.sharpen.value is not None:
        rows.append(_row("Sharpening", f"light, {video.sharpen.value:g}", video.sharpen, "sharpen"))
    level = f", level {video.level.value}" if video.level.value else ""
    why = _joined(video.codec, *((video.level,) if level else ()))
    value = f"{name_of(video.codec.value)} {video.profile.value}{level}{f', {video.tier} tier' if video.tier else ''}"
    rows.append(_row("Codec", value, video.codec, "codec", "profile", "level", "sample_entry", because=why, exact=video.sample_entry.value))
    rows += _bits(video)
    if not 0.999 <= framing.enlargement() <= 1.001:
        rows.append(_row("Scaler", str(video.scaler.value), video.scaler, "scaler"))
    if video.deep or video.dithered or video.chroma_halved:
        bits = "10 bit" if video.deep else "8 bit"
        rows.append(_row("Samples", bits, video.pixel_format, "pixel_format", exact=video.pixel_format.value))
    rows.append(_row("Colour", colour_text(video.colour.value), video.colour, "colour", "pixel_format",
                     exact=f"{_tags(video.colour.value)}, {video.pixel_format.value}"))
    return rows


def _bits(video: VideoPlan) -> list[SlipRow]:
    control, target = video.rate_control.value, video.target_bps
    most = "at most " if control is RateControl.QUALITY else ""
    rows = [_row("Bit rate", f"{most}{mbps_text(target.value)}", target, "target_bps", exact=f"{target.value} bit/s")]
    if control is RateControl.RECORDED:
        return rows
    quality = f" {video.quality.value}" if video.quality.value is not None else ""
    rows.append(_row("Rate control", f"{control}{quality}", video.rate_control, "rate_control", "quality"))
    if video.ceiling_bps.value is not None and video.buffer_bits.value is not None:
        why = f"{video.ceiling_bps.because.sentence}; buffer {video.buffer_bits.because.sentence}"
        rows.append(_row("Ceiling", mbps_text(video.ceiling_bps.value), video.ceiling_bps, "ceiling_bps", "buffer_bits",
                         exact=f"{video.ceiling_bps.value} bit/s, buffer {video.buffer_bits.value} bit", because=why))
    elif control is not RateControl.FIXED:
        rows.append(_row("Ceiling", "none", video.ceiling_bps, "ceiling_bps"))
    if (keyframes := video.keyframe_interval_frames).value is not None:
        value = "every frame" if keyframes.value == 1 else f"every {keyframes.value} frames"
        rows.append(_row("Keyframes", value, keyframes, "keyframe_interval_frames"))
    if video.effort.value is not None:
        value = f"{video.effort.value}, {effort_words(video.codec.value, video.effort.value)}"
        rows.append(_row("Effort", value, video.effort, "effort"))
    return rows


def _sound(sound: AudioPlan) -> list[SlipRow]:
    rate = f" {round(sound.bitrate_bps.value / 1000)} kbit/s" if sound.bitrate_bps.value is not None else ""
    channels = {1: "mono", 2: "stereo"}.get(sound.channels.value, f"{sound.channels.value} channels")
    why = _joined(sound.codec, sound.bitrate_bps)
    return [
        _row("Sound", f"{name_of(sound.codec.value)}{rate}, {channels}, {sound.sample_rate_hz.value / 1000:g} kHz", sound.codec,
             "sound_codec", "sound_bitrate_bps", "sample_rate_hz", "channels", because=why),
        _row("Level", _level_text(sound), sound.gain_db, "gain_db"),
    ]


def colour_text(tags: ColourTags) -> str:
    """Colour tags for reading."""
    parts = (tags.primaries, tags.transfer, tags.matrix, tags.range)
    return "BT.709, limited" if parts == ("bt709", "bt709", "bt709", "tv") else ", ".join(p or "none" for p in parts)


def _tags(tags: ColourTags) -> str:
    return (
        f"primaries {tags.primaries or 'none'}, transfer {tags.transfer or 'none'}, matrix {tags.matrix or 'none'}, "
        f"range {tags.range or 'none'}"
    )


def _level_text(sound: AudioPlan) -> str:
    gain, expected = sound.gain_db.value, sound.expected_lufs
    turned = "as it is" if gain == 0 else f"{gain:+.1f} dB".replace("-", "−")
    if expected is None:
        return turned
    before = f"{sound.master_lufs:.1f} → " if gain and sound.master_lufs is not None else ""
    return f"{turned}, {before}{expected:.1f} LUFS".replace("-", "−")


def plan_values(plan: Plan) -> dict[str, Chosen[Any]]:
    """Every value of the plan by its key, each with its because; what follows from a value shares its reason."""
    found: dict[str, Chosen[Any]] = {name: value for name, value in plan if isinstance(value, Chosen)}
    if plan.video:
        video = plan.video
        found |= {name: value for name, value in video if isinstance(value, Chosen)}
        framing = found.pop("framing")
        box = framing.value

        def follows(value: object, of: Chosen[Any]) -> Chosen[Any]:
            return Chosen(value=value, because=of.because)

        found |= {
            "width": follows(box.width, framing), "height": follows(box.height, framing),
            "crop": follows(box.crop.model_dump(), framing), "picture": follows(box.picture.model_dump(), framing),
            "frames": follows(video.frames, video.frame_rate), "keep_every": follows(str(video.keep_every), video.frame_rate),
            "source_matrix": follows(video.source_matrix, video.colour), "source_range": follows(video.source_range, video.colour),
            "source_primaries": follows(video.source_primaries, video.colour),
            "source_transfer": follows(video.source_transfer, video.colour),
        }
    elif plan.no_picture_because:
        found["picture"] = Chosen(value=None, because=plan.no_picture_because)
    if plan.audio:
        prefix = {"codec": "sound_codec", "bitrate_bps": "sound_bitrate_bps"}
        found |= {prefix.get(name, name): value for name, value in plan.audio if isinstance(value, Chosen)}
    elif plan.no_audio_because:
        found["sound"] = Chosen(value=None, because=plan.no_audio_because)
    return found
