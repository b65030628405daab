"""What the Master screen says: the facts in rows, flag beside measurement, and the sentence that opens it."""

from __future__ import annotations

from ...stamps import Outcome
from ...values import Model, level_text, mbps_text, rate_text, seconds_text, size_text
from ..facts import FileFacts, Scan, VideoFacts
from .combing import measured_scan
from .evidence import Difficulty, Survey
from .stamping import CheckStamp

CODECS = {
    "h264": "H.264", "hevc": "HEVC", "vp9": "VP9", "vp8": "VP8", "av1": "AV1", "mpeg2video": "MPEG-2", "mpeg4": "MPEG-4 Visual",
    "aac": "AAC", "mp3": "MP3", "opus": "Opus", "flac": "FLAC",
}


class FactRow(Model):
    """One fact. `measured` stands beside the value where the two were found to disagree."""

    name: str
    value: str
    measured: str | None = None


class DifficultyBar(Model):
    """A second of film on the strip: where it stands, how long it lasts (s), and its height, 1 at the hardest second."""

    at_s: float
    lasts_s: float
    height: float
    spatial: float
    temporal: float
    grain: float


LONGEST_BAR_S = 1.4


def difficulty_bars(seconds: tuple[Difficulty, ...], duration_s: float) -> tuple[DifficultyBar, ...]:
    """Bars in film order. Each lasts until the next, hardly more than a second: between sampled seconds nothing is claimed."""
    ordered = sorted(seconds, key=lambda second: second.at_s)
    hardest = max((second.level for second in ordered), default=0.0)
    ends = [*(second.at_s for second in ordered), duration_s][1:]
    return tuple(
        DifficultyBar(
            **second.model_dump(), lasts_s=round(max(0.0, min(LONGEST_BAR_S, end - second.at_s)), 3),
            height=round(second.level / hardest, 3) if hardest > 0 else 0.0,
        )
        for second, end in zip(ordered, ends, strict=True)
    )


def fact_rows(facts: FileFacts, survey: Survey | None) -> tuple[FactRow, ...]:
    """Every fact in reading order."""
    rows = [
        FactRow(name="File", value=f"{facts.container}, {size_text(facts.size_bytes)}, {mbps_text(facts.bitrate_bps)} in all"),
        FactRow(name="Length", value=_length(facts)),
    ]
    if facts.video:
        rows += _picture(facts.video, survey)
    rows += _sound(facts)
    rows += _container(facts)
    return tuple(rows)


def _length(facts: FileFacts) -> str:
    pictures = f", {facts.video.pictures} pictures" if facts.video and facts.video.pictures else ""
    return f"{seconds_text(facts.duration_s)}{pictures}"


def _picture(video: VideoFacts, survey: Survey | None) -> list[FactRow]:
    level = f"level {video.level}" if video.level else ""
    form = " ".join(part for part in (CODECS.get(video.codec, video.codec), video.profile, level) if part)
    rate = f", {mbps_text(video.bitrate_bps)}" if video.bitrate_bps else ""
    shape = video.sample_aspect_ratio
    coded = f"{video.coded_width}×{video.coded_height}"
    shown = f"{video.display_width}×{video.display_height}"
    size = shown if coded == shown else f"{shown}, stored {coded}"
    if shape != 1:
        size += f" with {shape.numerator}:{shape.denominator} pixels"
    if video.rotation_deg % 360:
        size += f", turned {video.rotation_deg}°"
    exact = f" ({video.frame_rate})" if video.frame_rate.denominator != 1 else ""
    frames = f"{rate_text(video.frame_rate)}{exact} frames/s, constant"
    if video.variable_rate:
        frames = (
            f"variable: {video.lowest_rate:.2f} to {video.highest_rate:.2f}, mostly {video.typical_rate:.2f}; "
            f"{rate_text(video.frame_rate)} fits best"
        )
    tags = video.colour
    colour = "untagged" if tags.untagged else ", ".join(dict.fromkeys(t for t in (tags.primaries, tags.transfer, tags.matrix) if t))
    colour += {"tv": ", limited", "pc": ", full"}.get(tags.range or "", ", range not stated")
    held = video.container_colour
    pairs = [(getattr(held, name), getattr(tags, name)) for name in ("primaries", "transfer", "matrix")] if held else []
    differs = any(outside and inside and outside != inside for outside, inside in pairs)
    return [
        FactRow(name="Picture", value=f"{form}{rate}"),
        FactRow(name="Frame size", value=size),
        FactRow(name="Frame rate", value=frames),
        FactRow(name="Scan", value=f"flagged {video.scan}", measured=_scan(video, survey)),
        FactRow(name="Depth", value=f"{video.bit_depth} bit {video.chroma}"),
        FactRow(
            name="Colour", value=colour,
            measured=f"container says {held.primaries}, {held.transfer}, {held.matrix}" if differs and held else None,
        ),
    ]


def _scan(video: VideoFacts, survey: Survey | None) -> str | None:
    if survey is None:
        return None
    found = measured_scan(survey.windows).scan
    return None if found in (Scan.UNKNOWN, video.scan) else f"measured {found}"


def _sound(facts: FileFacts) -> list[FactRow]:
    sound = facts.audio
    if sound is None:
        return [FactRow(name="Sound", value="none")]
    rate = f", {sound.bitrate_bps // 1000} kbit/s" if sound.bitrate_bps else ""
    more = f"; {facts.sound_streams} sound streams, the first is used" if facts.sound_streams > 1 else ""
    rows = [FactRow(
        name="Sound", value=f"{CODECS.get(sound.codec, sound.codec)}, {sound.sample_rate_hz / 1000:g} kHz, {sound.layout}{rate}{more}"
    )]
    if sound.integrated_lufs is not None and sound.true_peak_dbtp is not None:
        reach = f", range {sound.loudness_range_lu:g} LU" if sound.loudness_range_lu is not None else ""
        rows.append(FactRow(
            name="Loudness", value=f"{level_text(sound.integrated_lufs)} LUFS, peak {level_text(sound.true_peak_dbtp)} dBTP{reach}"
        ))
    late = facts.sound_late_s
    if late is not None and abs(late) >= 0.005:
        rows.append(FactRow(name="Sound starts", value=f"{abs(float(late)) * 1000:.0f} ms {'after' if late > 0 else 'before'} the picture"))
    return rows


def _container(facts: FileFacts) -> list[FactRow]:
    rows = [FactRow(name="Carries", value=facts.carries)] if facts.carries else []
    if facts.fast_start is not None:
        rows.append(FactRow(name="Index", value="stands first" if facts.fast_start else "stands last, after the film"))
    return rows


def opening_sentence(stamps: tuple[CheckStamp, ...], *, picture_checked: bool, sound_checked: bool) -> str:
    """What a knowledgeable friend would say about this master."""
    held = [stamp.matter for stamp in stamps if stamp.outcome is Outcome.HELD]
    care = [stamp for stamp in stamps if stamp.outcome is Outcome.CARE]
    left = [stamp.matter for stamp in care if not stamp.done]
    under_way = "" if picture_checked and sound_checked else " The checks are still running."
    if held:
        return f"This master cannot be packed as it is: {_list(held)}.{under_way}"
    if left:
        mended = len(care) - len(left)
        also = f" {mended} more {'is' if mended == 1 else 'are'} seen to when packing." if mended else ""
        return f"Handle with care: {_list(left)}.{also}{under_way}"
    if care:
        return f"Whatever was found is seen to when packing: {_list([stamp.matter for stamp in care])}.{under_way}"
    if not (picture_checked and sound_checked):
        return "Nothing found so far; the checks are still running."
    return "No problems found. This video can be packed as it is."


def _list(matters: list[str]) -> str:
    return matters[0] if len(matters) == 1 else f"{', '.join(matters[:-1])} and {matters[-1]}"
