"""The receipt: planned against measured, line by line, with a checksum."""

from __future__ import annotations

import math
from enum import StrEnum
from fractions import Fraction
from pathlib import Path

from ..arrival.judged import Judged
from ..master.checks.evidence import SoundSurvey
from ..master.facts import FileFacts
from ..plan.as_it_is import sound_codec_of
from ..plan.carrying import worst_case
from ..plan.choices import BESIDE, Method
from ..plan.packing_slip import colour_text
from ..plan.plan import AudioPlan, CapOf, Plan, VideoPlan, duration_s
from ..trade.codecs import SOUND_CODECS, name_of
from ..trade.containers import FAST_START
from ..trade.rate_control import RateControl
from ..values import Model, level_text, mbps_text, rate_text, size_text
from .handoff import Fingerprint, PackedFile


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


ENVELOPE_POINTS = 200


class SoundStory(Model):
    """The sound before and after: levels in LUFS and dBTP, the gain in dB, and both envelopes in equal steps of `step_s`."""

    before_lufs: float | None
    before_peak_dbtp: float | None
    after_lufs: float | None
    after_peak_dbtp: float | None
    gain_db: float
    target_lufs: float | None
    limit_dbtp: float | None
    step_s: float
    before: tuple[float | None, ...] = ()
    after: tuple[float | None, ...] = ()


class Receipt(Model):
    """What came out. Sizes in bytes, times in s; `tries` counts how often it was packed until it kept below its cap, and `beside` names
    the caption files that go with it. `serves` names every destination that the file goes to, where it is more than one; by the
    `fingerprint` the file is known again when it comes back. `judged` is how it looks beside the master on a laptop, measured on
    `judged_pictures` of it, None where its picture is the master's own; `poorest_s` is where it does worst (s in the master), and `stills`
    are that picture of the master and of the file, JPEG in base 64."""

    file_name: str
    folder: str
    size_bytes: int
    sha256: str
    encode_s: float
    pictures: int
    rows: tuple[ReceiptRow, ...]
    tries: int = 1
    beside: tuple[str, ...] = ()
    serves: tuple[str, ...] = ()
    sound: SoundStory | None = None
    fingerprint: Fingerprint | None = None
    judged: Judged | None = None
    judged_pictures: int = 0
    poorest_s: float | None = None
    stills: tuple[str, str] | None = None

    @property
    def differing(self) -> tuple[ReceiptRow, ...]:
        return tuple(row for row in self.rows if row.match is Match.DIFFERS)


def packed_file(receipt: Receipt, job_id: str | None = None) -> PackedFile:
    """What is known of a packed file by its receipt."""
    path = Path(receipt.folder) / receipt.file_name
    return PackedFile(name=receipt.file_name, path=path, fingerprint=receipt.fingerprint, job_id=job_id)


class PackedFacts(Model):
    """Read back from a packed file; rates in bit/s over the stream's own duration.

    `heard` is what was measured along its sound; `identical` is whether the file is the master's, byte for byte, asked only of
    one that was sent untouched; `captions` counts those of each track, inside it or beside.
    """

    facts: FileFacts
    video_bitrate_bps: int = 0
    pictures: int = 0
    longest_keyframe_distance: int = 0
    peak_bps: int = 0
    buffer_needed_bits: int | None = None
    index_first: bool = False
    heard: SoundSurvey | None = None
    identical: bool | None = None
    captions: tuple[int, ...] = ()


def compare(plan: Plan, packed: PackedFacts, *, captions: tuple[int, ...] = ()) -> tuple[ReceiptRow, ...]:
    """Planned against measured for everything a platform or a viewer depends on; `captions` counts what was to go along, by track."""
    rows = _picture(plan, plan.video, packed) if plan.video else [
        _same("picture", "Picture", "none", "none" if packed.facts.video is None else packed.facts.video.codec)
    ]
    if plan.method.value is Method.UNTOUCHED:
        rows.append(_same("identical", "Content", "the master's", "the master's" if packed.identical else "something else"))
    elif plan.container.value in FAST_START:
        planned = "index first" if plan.fast_start.value else "index last"
        rows.append(_same("fast_start", "Fast start", planned, "index first" if packed.index_first else "index last"))
    if plan.cap_of is CapOf.CREATOR or (plan.video is not None and plan.video.under_cap):
        cap, size = plan.size_cap.value, packed.facts.size_bytes
        rows.append(ReceiptRow(
            code="size_cap", setting="Size", planned=f"at most {size_text(cap)}", measured=size_text(size),
            match=Match.AS_PLANNED if size <= cap else Match.DIFFERS, note=f"{size / cap:.0%} of the limit",
        ))
    rows += [_duration(plan, packed), *_sound(plan.audio, packed.facts)]
    if plan.chapters.value:
        rows.append(_same("chapters", "Chapters", "kept", "kept" if packed.facts.chapters else "gone"))
    if plan.captions.value is not None and (plan.captions.value in BESIDE or plan.method.value is not Method.UNTOUCHED):
        where = str(plan.captions.value)
        rows.append(_same("captions", "Captions", _captions_text(captions, where), _captions_text(packed.captions, where)))
    return tuple(rows)


def _captions_text(counts: tuple[int, ...], where: str) -> str:
    """Such as “12 inside”, or “12 and 14 beside, as SRT” of two tracks."""
    return f"{' and '.join(map(str, counts))} {where}" if counts else "none"


def sound_story(plan: Plan, packed: PackedFacts, heard: SoundSurvey | None) -> SoundStory | None:
    """The sound's levels and envelopes before and after; without what was `heard` along the master, only those after."""
    sound, after = plan.audio, packed.facts.audio
    if sound is None or after is None:
        return None
    seconds = float(duration_s(plan))
    points = max(1, min(ENVELOPE_POINTS, int(seconds / max(0.1, packed.heard.step_s if packed.heard else 0.1))))
    start = float(plan.excerpt.in_s) if plan.method.value is not Method.UNTOUCHED else 0.0
    return SoundStory(
        before_lufs=sound.master_lufs, before_peak_dbtp=sound.master_peak_dbtp, after_lufs=after.integrated_lufs,
        after_peak_dbtp=after.true_peak_dbtp, gain_db=sound.gain_db.value, target_lufs=sound.target_lufs,
        limit_dbtp=sound.limit_dbtp, step_s=round(seconds / points, 4),
        before=_stepped(heard, start, seconds, points), after=_stepped(packed.heard, 0.0, seconds, points),
    )


def _stepped(heard: SoundSurvey | None, start_s: float, seconds: float, points: int) -> tuple[float | None, ...]:
    """The loudest momentary loudness in each of so many equal steps."""
    if heard is None or not heard.envelope_lufs:
        return ()
    found: list[float | None] = []
    for number in range(points):
        first = int((start_s + seconds * number / points) / heard.step_s)
        last = max(first + 1, math.ceil((start_s + seconds * (number + 1) / points) / heard.step_s - 1e-6))
        levels = [level for level in heard.envelope_lufs[first:last] if level is not None]
        found.append(max(levels) if levels else None)
    return tuple(found)


def _picture(plan: Plan, video: VideoPlan, packed: PackedFacts) -> list[ReceiptRow]:
    facts = packed.facts.video
    if facts is None:
        return [_same("codec", "Codec", name_of(video.codec.value), "none")]
    framing = video.framing.value
    rows = [
        _same("codec", "Codec", name_of(video.codec.value), name_of(facts.codec)),
        _same("size", "Frame size", f"{framing.width}×{framing.height}", f"{facts.display_width}×{facts.display_height}"),
        _same("rate", "Frame rate", rate_text(video.frame_rate.value), rate_text(facts.frame_rate)),
        _same("pictures", "Pictures", str(video.frames), str(packed.pictures)),
        _bit_rate(video, packed.video_bitrate_bps),
    ]
    if entry := video.sample_entry.value:
        rows.insert(1, _same("sample_entry", "Sample description", entry, facts.sample_entry or "not stated"))
    if plan.copied:
        return rows
    rows.insert(1, _profile(video, facts.profile))
    if video.level.value and facts.level:  # VP9 states no level in its stream
        rows.insert(2, _same("level", "Level", video.level.value, facts.level))
    rows += _peak_rate(video, packed)
    if video.keyframe_interval_frames.value:
        rows.append(_keyframes(video.keyframe_interval_frames.value, packed.longest_keyframe_distance))
    rows.append(_same("colour", "Colour", colour_text(video.colour.value), colour_text(facts.colour)))
    return rows


BUFFER_SPARE = 1.05
"""An encoder counts its buffer by the picture, we by the packet with what wraps it."""


def _peak_rate(video: VideoPlan, packed: PackedFacts) -> list[ReceiptRow]:
    """The highest rate over a second, and whether the stream fits through the buffer that it declares at its ceiling."""
    ceiling, buffer, needed = video.ceiling_bps.value, video.buffer_bits.value, packed.buffer_needed_bits
    if not ceiling or not buffer or needed is None:
        return []
    fits = needed <= buffer * BUFFER_SPARE
    note = f"it needs {needed / buffer:.0%} of the buffer"
    return [ReceiptRow(
        code="peak_rate", setting="Peak rate", planned=f"{mbps_text(ceiling)} through {buffer / 1e6:.1f} Mbit",
        measured=f"{mbps_text(packed.peak_bps)} over a second", match=Match.AS_PLANNED if fits else Match.EXPLAINED,
        note=note if fits else f"{note}: this encoder only aims at its ceiling",
    )]


def _profile(video: VideoPlan, measured: str | None) -> ReceiptRow:
    planned = video.profile.value
    found = measured or "not stated"
    return _same("profile", "Profile", planned, planned if found.endswith(planned) else found)


def _sound(plan: AudioPlan | None, facts: FileFacts) -> list[ReceiptRow]:
    sound = facts.audio
    if plan is None:
        return [_same("sound", "Sound", "none", "none" if sound is None else sound.codec)]
    if sound is None:
        return [_same("sound", "Sound", name_of(plan.codec.value), "none")]
    planned = f"{name_of(plan.codec.value)} {plan.sample_rate_hz.value / 1000:g} kHz, {plan.channels.value} ch"
    measured = f"{name_of(sound_codec_of(sound.codec) or sound.codec)} {sound.sample_rate_hz / 1000:g} kHz, {sound.channels} ch"
    rows = [_same("sound", "Sound", planned, measured), _loudness(plan, sound.integrated_lufs)]
    return [*rows, *_peak(plan, sound.true_peak_dbtp)]


def _same(code: str, setting: str, planned: str, measured: str) -> ReceiptRow:
    match = Match.AS_PLANNED if planned == measured else Match.DIFFERS
    return ReceiptRow(code=code, setting=setting, planned=planned, measured=measured, match=match)


def _bit_rate(video: VideoPlan, measured_bps: int) -> ReceiptRow:
    target = video.target_bps.value
    share = measured_bps / target
    match, note = Match.AS_PLANNED, f"{share:.0%} of the target"
    if share > worst_case(video) + 0.005:
        match = Match.DIFFERS
    elif video.rate_control.value is RateControl.QUALITY:
        note = f"{share:.0%} of the ceiling; the quality value asked for no more"
    elif share < 0.9:
        match, note = Match.EXPLAINED, f"{share:.0%} of the target: the picture is simple and needs no more"
    return ReceiptRow(
        code="bitrate", setting="Video bit rate", planned=mbps_text(target), measured=mbps_text(measured_bps),
        match=match, note=note,
    )


def quality_found(quality: float) -> ReceiptRow:
    """What the first pass found, which stands nowhere in the file."""
    return ReceiptRow(
        code="quality", setting="Quality", planned="what has the size", measured=f"{quality:g}", match=Match.AS_PLANNED,
        note="found in the first pass",
    )


def _keyframes(planned: int, longest: int) -> ReceiptRow:
    match = Match.AS_PLANNED if longest <= planned else Match.DIFFERS
    note = "cuts in the picture bring more keyframes" if longest < planned else ""
    return ReceiptRow(
        code="keyframes", setting="Keyframes", planned=f"at most {planned} apart", measured=f"at most {longest} apart",
        match=match, note=note,
    )


def _duration(plan: Plan, packed: PackedFacts) -> ReceiptRow:
    planned, measured = duration_s(plan), packed.facts.duration_s
    near = abs(planned - measured) <= max(Fraction(1, 10), 2 / plan.video.frame_rate.value if plan.video else Fraction(0))
    return ReceiptRow(
        code="duration", setting="Duration", planned=f"{float(planned):.2f} s", measured=f"{float(measured):.2f} s",
        match=Match.AS_PLANNED if near else Match.DIFFERS,
    )


def _peak(plan: AudioPlan, measured: float | None) -> list[ReceiptRow]:
    """The true peak against the sheet's limit, where the sheet states one and we may turn."""
    if plan.limit_dbtp is None or plan.expected_peak_dbtp is None or measured is None or plan.copied:
        return []
    near = measured <= max(plan.limit_dbtp, plan.expected_peak_dbtp) + (0.0 if plan.expected_peak_dbtp <= plan.limit_dbtp else 1.0)
    return [ReceiptRow(
        code="peak", setting="True peak", planned=f"at most {level_text(max(plan.limit_dbtp, plan.expected_peak_dbtp))} dBTP",
        measured=f"{level_text(measured)} dBTP", match=Match.AS_PLANNED if near else Match.DIFFERS,
    )]


LOUDNESS_NEAR_LU, LOUDNESS_EXPLAINED_LU = 0.6, 1.5
"""A lossy codec that is short of bits leaves out some of the noise in a sound, up to a unit or so of its loudness."""


def _loudness(plan: AudioPlan, measured: float | None) -> ReceiptRow:
    expected = plan.expected_lufs

    def text(value: float | None) -> str:
        return "silent" if value is None else f"{value:.1f} LUFS".replace("-", "−")

    off = 0.0 if expected == measured else math.inf if expected is None or measured is None else measured - expected
    match, note = Match.AS_PLANNED if abs(off) <= LOUDNESS_NEAR_LU else Match.DIFFERS, ""
    if -LOUDNESS_EXPLAINED_LU <= off < -LOUDNESS_NEAR_LU and not SOUND_CODECS[plan.codec.value].lossless:
        match, note = Match.EXPLAINED, f"{-off:.1f} LU less: the codec left out some noise to keep its rate"
    return ReceiptRow(code="loudness", setting="Loudness", planned=text(expected), measured=text(measured), match=match, note=note)
