"""Taking what a paste gave into a placement that is being edited, and the limits that follow from its rows."""

from __future__ import annotations

from collections.abc import Mapping
from copy import deepcopy
from fractions import Fraction
from typing import Annotated, Any

from pydantic import Field

from ..trade.names import CODEC_NAMES
from ..values import Model, size_text
from .pasting import SoundRow
from .sheet import FrameRateClass, GuidanceRow
from .stated_limits import StatedLimits

ROW_KEY = ("short_side_px", "frame_rate_class", "dynamic_range", "codec")
USUAL_SHAPE = Fraction(16, 9)


class Taken(Model):
    """What is taken of a paste: rows, those of the sound and limits, what was asked and answered with yes among them."""

    rows: Annotated[tuple[GuidanceRow, ...], Field(max_length=2_000)] = ()
    sound: Annotated[tuple[SoundRow, ...], Field(max_length=200)] = ()
    limits: StatedLimits = StatedLimits()


class TakenInto(Model):
    """The placement's draft with it, and a sentence for every field beside the guidance that changed."""

    draft: dict[str, Any]
    changed: tuple[str, ...]


def take_into(draft: Mapping[str, Any], taken: Taken, *, instead: bool) -> TakenInto:
    """A placement's draft with what was taken of a paste: `instead` of the guidance it has, else beside it.

    The draft may have faults, which stay as they are. A stated limit holds; else a limit that would refuse a row's frame is widened.
    """
    new, changed = deepcopy(dict(draft)), list[str]()
    if taken.rows:
        rows = [row.model_dump(mode="json") for row in taken.rows]
        keys = {_key(row) for row in rows}
        old = (
            []
            if instead
            else [row for row in _list(new, "guidance") if not isinstance(row, dict) or _key(row) not in keys]
        )
        new["guidance"] = [*old, *rows]
    for heard in taken.sound:
        _take_sound(new, heard)
    _state(new, taken.limits, changed)
    _follow(new, taken, changed)
    return TakenInto(draft=new, changed=tuple(changed))


def _list(draft: Mapping[str, Any], name: str) -> list[Any]:
    """A list of a draft; empty where it is none, as a faulty draft may have it."""
    value = draft.get(name)
    return list(value) if isinstance(value, list) else []


def _audio(draft: Mapping[str, Any]) -> dict[str, Any]:
    value = draft.get("audio")
    return value if isinstance(value, dict) else {}


def _key(row: Mapping[str, Any]) -> tuple[str, ...]:
    usual = {"dynamic_range": "sdr", "codec": "h264"}
    return tuple(str(row.get(name) or usual.get(name)) for name in ROW_KEY)


def _take_sound(new: dict[str, Any], heard: SoundRow) -> None:
    """By codec where one was named; a line that names no channels is taken for stereo."""
    audio = new["audio"] = _audio(new)
    low = heard.low_bps if heard.low_bps < heard.high_bps else None
    channels = heard.channels or 2
    if heard.codec:
        others = [
            row
            for row in _list(audio, "by_codec")
            if not isinstance(row, dict) or (row.get("codec"), row.get("channels")) != (heard.codec, channels)
        ]
        row = {"codec": heard.codec, "channels": channels, "low_bps": low, "high_bps": heard.high_bps}
        audio["by_codec"] = [*others, row]
        if heard.codec not in _list(audio, "codecs"):
            audio["codecs"] = [*_list(audio, "codecs"), heard.codec]
    else:
        name = "mono" if channels == 1 else "stereo"
        audio |= {f"{name}_bps": heard.high_bps, f"{name}_low_bps": low}


def _state(new: dict[str, Any], limits: StatedLimits, changed: list[str]) -> None:
    for name, value in limits.model_dump(mode="json", exclude_none=True).items():
        if name == "sound_codecs":
            audio = new["audio"] = _audio(new)
            before, audio["codecs"] = audio.get("codecs"), value
        else:
            before, new[name] = new.get(name), value
        if before != value:
            changed.append(_said(name, value))
    short, long = new.get("max_short_side_px"), new.get("max_long_side_px")
    if isinstance(short, int) and isinstance(long, int) and short > long:
        new["max_short_side_px"] = long


def _follow(new: dict[str, Any], taken: Taken, changed: list[str]) -> None:
    """Limits that a row goes beyond are widened to it: who asks for 2160 takes 3840×2160."""
    if not taken.rows:
        return
    side, stated = max(row.short_side_px for row in taken.rows), taken.limits.given()
    for name, needed in (("max_short_side_px", side), ("max_long_side_px", _long_side(side))):
        current = new.get(name)
        if name not in stated and isinstance(current, int) and current < needed:
            new[name] = needed
            changed.append(f"{_said(name, needed)[:-1]}, since a row is for {side}.")
    fast = any(row.frame_rate_class is FrameRateClass.HIGH for row in taken.rows)
    if fast and "max_frame_rate" not in stated and _ratio(new.get("max_frame_rate")) < 60:
        new["max_frame_rate"] = "60"
        changed.append("Frame rates up to 60 are taken now, since a row is for high ones.")
    codecs = _list(new, "codecs")
    missing = list(dict.fromkeys(row.codec for row in taken.rows if row.codec not in codecs))
    if missing:
        new["codecs"] = [*codecs, *missing]
        changed.append(f"Taken too, since rows are for it: {' and '.join(CODEC_NAMES[codec] for codec in missing)}.")


def _long_side(side: int) -> int:
    return -(-side * USUAL_SHAPE.numerator // USUAL_SHAPE.denominator)


def _ratio(value: object) -> Fraction:
    try:
        return Fraction(str(value))
    except (ValueError, ZeroDivisionError):
        return Fraction(60)


def _said(name: str, value: Any) -> str:
    words = {
        "max_bytes": "The largest file is {}.",
        "max_duration_s": "The longest film is {} s.",
        "max_long_side_px": "The longest long side is {} px.",
        "max_short_side_px": "The longest short side is {} px.",
        "max_frame_rate": "Frame rates up to {} are taken.",
        "codecs": "Taken codecs: {}.",
        "containers": "Taken containers: {}.",
        "sound_codecs": "Taken codecs of the sound: {}.",
    }
    if isinstance(value, list):
        value = ", ".join(CODEC_NAMES.get(item, item.upper()) for item in value)
    elif isinstance(value, int):
        value = size_text(value) if name == "max_bytes" else f"{value:,}"
    return words[name].format(value)
