"""A rule sheet as a person reads it: what a placement takes, its guidance as a grid, its limits, sound and handling."""

from __future__ import annotations

from fractions import Fraction

from ..trade.codecs import name_of
from ..trade.containers import CONTAINER_NAMES
from ..trade.names import CODEC_NAMES
from ..values import Model, even, frame_of_shape, level_text, mbps_text, rate_text, size_text
from .sheet import FrameRateClass, GuidanceRow, Placement


class SheetRow(Model):
    """One line of a sheet: what it is about, and what it says."""

    about: str
    says: str


class GridRow(Model):
    """One frame size of a grid with what is asked at standard and at high rates; None where the sheet has no row."""

    short_side_px: int
    standard: str | None
    high: str | None


class Grid(Model):
    """Guidance of one codec and dynamic range."""

    codec: str
    dynamic_range: str
    rows: tuple[GridRow, ...]


def takes_sentence(place: Placement) -> str:
    """What a placement takes, in one sentence."""
    containers = _listed([CONTAINER_NAMES[item] for item in place.containers])
    if not place.picture:
        return f"Sound only: {_listed([name_of(item) for item in place.audio.codecs])} in {containers}."
    size = f"up to {largest_frame(place)}"
    codecs = _listed([name_of(item) for item in place.codecs])
    return f"{_shapes(place)}, {size}, {rate_text(place.max_frame_rate)} frames/s; {codecs} in {containers}."


def largest_frame(place: Placement) -> str:
    """The largest frame that is taken, as it stands: upright where nothing wide is taken, and of the one shape where there is but one."""
    long, short = place.max_long_side_px, place.max_short_side_px
    if place.narrowest == place.widest:
        side = min(Fraction(short), long / max(place.widest, 1 / place.widest))
        width, height = (even(part) for part in frame_of_shape(place.widest, side))
        return f"{width}×{height}"
    return f"{short}×{long}" if place.widest < 1 else f"{long}×{short}"


def _shapes(placement: Placement) -> str:
    if placement.narrowest == placement.widest:
        return f"{_shape(placement.narrowest)} only"
    return f"Any shape from {_shape(placement.narrowest)} to {_shape(placement.widest)}"


def _shape(shape: Fraction) -> str:
    """A shape as the trade names it: 21:9, not 7:3."""
    return (
        "21:9"
        if shape == Fraction(7, 3)
        else "9:21"
        if shape == Fraction(3, 7)
        else f"{shape.numerator}:{shape.denominator}"
    )


def _lasting(seconds: int) -> str:
    for unit, length in (("hours", 3600), ("minutes", 60)):
        if seconds % length == 0 and seconds >= 2 * length:
            return f"{seconds // length} {unit}"
    return f"{seconds} s"


def _listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def sheet_rows(place: Placement) -> tuple[SheetRow, ...]:
    """What a placement takes, its limits, its sound and its handling, line by line."""
    rows = [SheetRow(about="Takes", says=takes_sentence(place))]
    if place.picture:
        wrong = {"bars": "gets bars", "crop": "is cropped at the centre", "refuse": "is refused"}[
            place.handling.wrong_shape
        ]
        usual = f"{_shape(place.usual_shape)}, {place.usual_short_side_px} px"
        rows.append(SheetRow(about="Another shape", says=f"{wrong}; the usual one is {usual}"))
        if place.covered:
            parts = [f"{share:.0%} at the {side}" for side, share in place.covered if share]
            rows.append(
                SheetRow(
                    about="Covers", says=f"{_listed(parts)} of the picture, by its own page" if parts else "nothing"
                )
            )
        rows.append(SheetRow(about="Keyframes", says=f"every {place.keyframe_interval_s:g} s"))
    quota = f"; {size_text(place.quota_bytes)} in {place.quota_days or 1} days" if place.quota_bytes else ""
    rows.append(
        SheetRow(
            about="Limits", says=f"{size_text(place.max_bytes)} and {_lasting(place.max_duration_s)} a film{quota}"
        )
    )
    if place.max_level or place.peak_bps:
        levels = [f"{CODEC_NAMES[codec]} level {level}" for codec, level in place.max_level.items()]
        peak = [f"{mbps_text(place.peak_bps)} at the peak"] if place.peak_bps else []
        rows.append(SheetRow(about="Plays", says=f"{_listed([*levels, *peak])} at most"))
    rows.append(SheetRow(about="Sound", says=_sound(place)))
    if place.keeps:
        rows.append(SheetRow(about="Keeps", says=_listed(list(place.keeps))))
    rows.append(SheetRow(about="Handling", says=handling_sentence(place)))
    return tuple(rows)


def _sound(placement: Placement) -> str:
    audio = placement.audio
    level = "leaves the level alone"
    if audio.target_lufs is not None and audio.true_peak_limit_dbtp is not None:
        options = "turns down only" if audio.turns == "down" else "both ways"
        level = f"{level_text(audio.target_lufs)} LUFS, {level_text(audio.true_peak_limit_dbtp)} dBTP, {options}"
    low = f"{audio.stereo_low_bps // 1000} to " if audio.stereo_low_bps else ""
    mono_low = f"{audio.mono_low_bps // 1000} to " if audio.mono_low_bps else ""
    local = "".join(
        f"; {name_of(item.codec)} {'stereo' if item.channels == 2 else 'mono'} "
        f"{f'{item.low_bps // 1000} to ' if item.low_bps else ''}{item.high_bps // 1000} kbit/s"
        for item in audio.by_codec
    )
    return (
        f"{_listed([name_of(item) for item in audio.codecs])}, stereo {low}{audio.stereo_bps // 1000} and mono "
        f"{mono_low}{audio.mono_bps // 1000} kbit/s{local}; {level}"
    )


def handling_sentence(place: Placement) -> str:
    """How a placement re-encodes, in one sentence."""
    handling = place.handling
    if handling.sound_bps:
        return f"the sound is re-encoded to {handling.sound_bps // 1000} kbit/s"
    if not handling.tiers:
        return "bit for bit; nothing is re-encoded"
    words = []
    for tier in handling.tiers:
        steps = [
            f"{rule.short_side_px} {CODEC_NAMES[rule.codec]} ≤ {mbps_text(rule.ceiling_standard_bps)}"
            for rule in tier.renditions
        ]
        words.append(f"{tier.name}: {', '.join(steps)}")
    assumed = f"assumed {handling.assumed}: " if handling.assumed else ""
    return assumed + "; ".join(words)


def grids(place: Placement) -> tuple[Grid, ...]:
    """The guidance as grids of sizes by frame-rate classes, one for each codec and dynamic range that has rows."""
    kinds = dict.fromkeys((row.codec, row.dynamic_range) for row in place.guidance)
    return tuple(
        Grid(codec=codec, dynamic_range=dynamic, rows=_grid(place, codec, dynamic)) for codec, dynamic in kinds
    )


def _grid(placement: Placement, codec: str, dynamic_range: str) -> tuple[GridRow, ...]:
    rows = [row for row in placement.guidance if (row.codec, row.dynamic_range) == (codec, dynamic_range)]

    def cell(side: int, kind: FrameRateClass) -> str | None:
        return next(
            (ends_text(row) for row in rows if row.short_side_px == side and row.frame_rate_class is kind), None
        )

    return tuple(
        GridRow(short_side_px=side, standard=cell(side, FrameRateClass.STANDARD), high=cell(side, FrameRateClass.HIGH))
        for side in sorted({row.short_side_px for row in rows}, reverse=True)
    )


def ends_text(row: GuidanceRow) -> str:
    """A row's ends in Mbit/s, without the unit: “7–9.1”, or one figure where they are the same."""
    low, high = (f"{bps / 1e6:.3g}" for bps in (row.low_bps, row.high_bps))
    return low if low == high else f"{low}–{high}"
