"""The receipt: planned against measured, line by line, with a checksum."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction

from .carrying import WORST_CASE
from .facts import MasterFacts
from .plan import Plan, duration_s
from .values import Model, mbps_text, rate_text


class Match(StrEnum):
    AS_PLANNED = "as planned"
    EXPLAINED = "explained"
    DIFFERS = "differs"


class ReceiptRow(Model):
    """One value: planned, measured on the packed file, and how they compare."""

    code: str
    setting: str
    planned: str
    measured: str
    match: Match
    note: str = ""


class Receipt(Model):
    """What came out. Sizes in bytes, times in s."""

    file_name: str
    folder: str
    size_bytes: int
    sha256: str
    encode_s: float
    pictures: int
    rows: tuple[ReceiptRow, ...]

    @property
    def differing(self) -> tuple[ReceiptRow, ...]:
        return tuple(row for row in self.rows if row.match is Match.DIFFERS)


class PackedFacts(Model):
    """Read back from a packed file; rates in bit/s over the stream's own duration."""

    facts: MasterFacts
    video_bitrate_bps: int
    pictures: int
    longest_keyframe_distance: int
    index_first: bool


def compare(plan: Plan, packed: PackedFacts) -> tuple[ReceiptRow, ...]:
    """Planned against measured for everything a platform or a viewer depends on."""
    video, facts = plan.video, packed.facts.video
    framing = video.framing.value
    rows = [
        _same("codec", "Codec", "H.264 High", f"{_codec(facts.codec)} {facts.profile or ''}".strip()),
        _same("level", "Level", video.level.value, facts.level or "not stated"),
        _same("size", "Frame size", f"{framing.width}×{framing.height}", f"{facts.display_width}×{facts.display_height}"),
        _same("rate", "Frame rate", rate_text(video.frame_rate.value), rate_text(facts.frame_rate)),
        _same("pictures", "Pictures", str(video.frames), str(packed.pictures)),
        _bit_rate(plan, packed.video_bitrate_bps),
        _keyframes(plan, packed.longest_keyframe_distance),
        _same("colour", "Colour", _colour(video.colour.value), _colour(facts.colour)),
        _same("fast_start", "Fast start", "index first", "index first" if packed.index_first else "index last"),
        _duration(plan, packed),
    ]
    sound = packed.facts.audio
    if plan.audio is None:
        rows.append(_same("sound", "Sound", "none", "none" if sound is None else sound.codec))
    elif sound is None:
        rows.append(_same("sound", "Sound", "AAC", "none"))
    else:
        planned = f"AAC {plan.audio.sample_rate_hz.value / 1000:g} kHz, {plan.audio.channels.value} ch"
        measured = f"{sound.codec.upper()} {sound.sample_rate_hz / 1000:g} kHz, {sound.channels} ch"
        rows.append(_same("sound", "Sound", planned, measured))
        rows.append(_loudness(plan.audio.expected_lufs, sound.integrated_lufs))
    return tuple(rows)


def _same(code: str, setting: str, planned: str, measured: str) -> ReceiptRow:
    match = Match.AS_PLANNED if planned == measured else Match.DIFFERS
    return ReceiptRow(code=code, setting=setting, planned=planned, measured=measured, match=match)


def _codec(name: str) -> str:
    return "H.264" if name == "h264" else name


def _colour(tags) -> str:
    parts = (tags.primaries, tags.transfer, tags.matrix, tags.range)
    return "BT.709, limited" if parts == ("bt709", "bt709", "bt709", "tv") else ", ".join(p or "none" for p in parts)


def _bit_rate(plan: Plan, measured_bps: int) -> ReceiptRow:
    target = plan.video.target_bps.value
    share = measured_bps / target
    match, note = Match.AS_PLANNED, f"{share:.0%} of the target"
    if share > WORST_CASE[plan.video.rate_control.value]:
        match = Match.DIFFERS
    elif share < 0.9:
        match, note = Match.EXPLAINED, f"{share:.0%} of the target: the picture is simple and needs no more"
    return ReceiptRow(
        code="bitrate", setting="Video bit rate", planned=mbps_text(target), measured=mbps_text(measured_bps),
        match=match, note=note,
    )


def _keyframes(plan: Plan, longest: int) -> ReceiptRow:
    planned = plan.video.keyframe_interval_frames.value
    match = Match.AS_PLANNED if longest <= planned else Match.DIFFERS
    note = "" if longest == planned else "cuts in the picture bring more keyframes" if longest < planned else ""
    return ReceiptRow(
        code="keyframes", setting="Keyframes", planned=f"at most {planned} apart", measured=f"at most {longest} apart",
        match=match, note=note,
    )


def _duration(plan: Plan, packed: PackedFacts) -> ReceiptRow:
    planned, measured = duration_s(plan), packed.facts.duration_s
    near = abs(planned - measured) <= max(Fraction(1, 10), 2 / plan.video.frame_rate.value)
    return ReceiptRow(
        code="duration", setting="Duration", planned=f"{float(planned):.2f} s", measured=f"{float(measured):.2f} s",
        match=Match.AS_PLANNED if near else Match.DIFFERS,
    )


def _loudness(expected: float | None, measured: float | None) -> ReceiptRow:
    def text(value: float | None) -> str:
        return "silent" if value is None else f"{value:.1f} LUFS".replace("-", "−")

    near = expected == measured or (expected is not None and measured is not None and abs(expected - measured) <= 0.6)
    return ReceiptRow(
        code="loudness", setting="Loudness", planned=text(expected), measured=text(measured),
        match=Match.AS_PLANNED if near else Match.DIFFERS,
    )
