"""The plan as a packing slip: setting, value, because, for screens and the command line alike."""

from __future__ import annotations

from fractions import Fraction

from .plan import AudioPlan, FieldOrder, Plan, RateControl
from .values import Model, mbps_text, rate_text


class SlipRow(Model):
    """One line of the slip; `exact` is what the encoder is told where the value is worded for reading."""

    setting: str
    value: str
    because: str
    source: str
    exact: str | None = None


def packing_slip(plan: Plan) -> tuple[SlipRow, ...]:
    """Every setting of the plan in reading order."""
    video, rows = plan.video, []

    def add(setting: str, value: str, chosen, exact: str | None = None, because: str | None = None) -> None:
        reason = chosen.because
        rows.append(SlipRow(
            setting=setting, value=value, because=because or reason.sentence, source=str(reason.source), exact=exact
        ))

    framing = video.framing.value
    crop, picture = framing.crop, framing.picture
    add("Frame size", f"{framing.width}×{framing.height}", video.framing,
        exact=f"crop {crop.width}×{crop.height} at {crop.x},{crop.y} "
        f"into {picture.width}×{picture.height} at {picture.x},{picture.y}")
    rate = video.frame_rate.value
    add("Frame rate", rate_text(rate), video.frame_rate, exact=_ratio(rate))
    if video.deinterlace.value is not FieldOrder.NONE:
        add("Scan", "progressive", video.deinterlace, exact=str(video.deinterlace.value))
    add("Codec", f"H.264 High, level {video.level.value}", video.level)
    control = "two passes" if video.rate_control.value is RateControl.TWO_PASSES else "one pass"
    add("Bit rate", f"{mbps_text(video.target_bps.value)}, {control}", video.target_bps,
        exact=f"{video.target_bps.value} bit/s")
    add("Ceiling", mbps_text(video.ceiling_bps.value), video.ceiling_bps, exact=f"{video.ceiling_bps.value} bit/s",
        because=f"{video.ceiling_bps.because.sentence}; buffer {video.buffer_bits.because.sentence}")
    add("Keyframes", f"every {video.keyframe_interval_frames.value} frames", video.keyframe_interval_frames)
    add("Effort", str(video.effort.value), video.effort)
    add("Colour", "BT.709, limited", video.colour, exact="primaries, transfer and matrix bt709, range tv, yuv420p")
    if plan.audio:
        sound = plan.audio
        add("Sound", f"AAC {sound.bitrate_bps.value // 1000} kbit/s, "
            f"{'stereo' if sound.channels.value == 2 else 'mono'}, {sound.sample_rate_hz.value / 1000:g} kHz",
            sound.codec)
        add("Level", _level_text(sound), sound.gain_db)
    elif plan.no_audio_because:
        rows.append(SlipRow(setting="Sound", value="none", because=plan.no_audio_because.sentence, source="master"))
    add("Container", "MP4, fast start", plan.fast_start)
    return tuple(rows)


def _ratio(rate: Fraction) -> str:
    return str(rate) if rate.denominator != 1 else f"{rate}/1"


def _level_text(sound: AudioPlan) -> str:
    gain, expected = sound.gain_db.value, sound.expected_lufs
    turned = "as it is" if gain == 0 else f"{gain:+.1f} dB".replace("-", "−")
    return turned if expected is None else f"{turned}, {expected:.1f} LUFS".replace("-", "−")
