"""One table of choices: for each its setting on the slip, what it gives back to the plan when it changes, how it is said, and how a
recipe holds it.

It feeds the choices themselves, intents, offers, slip, command line and page; a test compares it with the fields of `Choices`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ..trade.codecs import name_of
from ..trade.containers import CONTAINER_NAMES
from ..values import mbps_text, rate_text, shape_text, size_text
from .choices import Choices, Method


class InRecipe(StrEnum):
    """How a recipe holds a choice: as it is, as an intent that adapts to each master, or not, since it is the master's own."""

    SAME = "same"
    ADAPTS = "adapts"
    NOT = "not"


RATES = ("video_bitrate_bps", "ceiling_bps")


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """One choice. `says` words a value; `when` is how two siblings differ, where that is another phrase.

    `unset` says that nothing is chosen, where a phrase of its own does it better.
    `unit` and `times` are of a field in which it is typed: how many of the choice's units one of the field's is, 0 for text.
    """

    name: str
    setting: str
    says: Callable[[Any], str] = str
    when: Callable[[Any], str] | None = None
    releases: tuple[str, ...] = ()
    recipe: InRecipe = InRecipe.SAME
    unit: str = ""
    times: float = 1
    typed_as: str = ""
    unset: str = ""

    @property
    def usual(self) -> Any:
        """Its value where nothing is chosen."""
        return Choices.model_fields[self.name].default

    def phrase(self, mine: Any) -> str:
        """What sets one parcel apart from another in this choice."""
        if mine is None:
            return self.unset or f"{self.setting.lower()} left to the plan"
        return (self.when or self.says)(mine)


FRAMINGS = {"fit": "fit, with bars", "fill": "fill, cropped", "blur": "over a blurred copy"}
METHODS = {
    Method.ENCODE: "encoded", Method.REWRAP: "as it is", Method.UNTOUCHED: "as it is", Method.SOUND_ANEW: "the picture as it is",
}
CHANNELS = {1: "mono", 2: "stereo"}


def _focus(focus: Any) -> str:
    return f"focus at {focus.x:.0%}, {focus.y:.0%}" if focus else "around the master's focus"


def enough_words(times: float) -> str:
    """A multiple of what is enough in words."""
    if times == 1:
        return "what is enough"
    return f"what is enough, and {times - 1:.0%} more" if times < 2 else f"{times:g} × what is enough"


TABLE: dict[str, Choice] = {
    choice.name: choice
    for choice in (
        Choice(
            name="picture",
            setting="Picture",
            says=lambda on: "packed" if on else "left out",
            when=lambda on: "with its picture" if on else "without picture",
        ),
        Choice(
            name="sound",
            setting="Sound",
            says=lambda on: "packed" if on else "left out",
            when=lambda on: "with its sound" if on else "without sound",
        ),
        Choice(name="framing", setting="Framing", says=FRAMINGS.__getitem__, unset="framing left to the video", releases=RATES),
        Choice(name="shape", setting="Shape", says=shape_text, releases=RATES),
        Choice(name="focus", setting="Focus", says=_focus, recipe=InRecipe.NOT),
        Choice(
            name="zoom",
            setting="Zoom",
            says=lambda zoom: f"{zoom:g} ×",
            when=lambda zoom: f"zoomed {zoom:g} ×" if zoom > 1 else "not zoomed",
        ),
        Choice(name="method", setting="Sent", when=METHODS.__getitem__, unset="as planned"),
        Choice(
            name="codec",
            setting="Codec",
            says=name_of,
            releases=("container", "sound_codec", "rate_control", "quality", *RATES),
        ),
        Choice(name="container", setting="Container", says=CONTAINER_NAMES.__getitem__, releases=("sound_codec",)),
        Choice(
            name="sound_codec", setting="Sound codec", says=name_of, when=lambda codec: f"{name_of(codec)} sound", releases=("container",)
        ),
        Choice(name="rate_control", setting="Rate control"),
        Choice(name="quality", setting="Quality value", when=lambda value: f"quality {value}", typed_as="Quality value"),
        Choice(name="effort", setting="Effort", when=lambda effort: f"{effort} effort"),
        Choice(
            name="fast_start",
            setting="Index",
            says=lambda first: "first" if first else "last",
            when=lambda first: f"index {'first' if first else 'last'}",
        ),
        Choice(
            name="chapters",
            setting="Chapters",
            says=lambda on: "kept" if on else "left out",
            when=lambda on: "with its chapters" if on else "without chapters",
        ),
        Choice(name="captions", setting="Captions", when=lambda where: f"captions {where}"),
        Choice(
            name="sharpen",
            setting="Sharpening",
            says=lambda on: "light" if on else "none",
            when=lambda on: "sharpened" if on else "not sharpened",
        ),
        Choice(
            name="short_side_px",
            setting="Frame size",
            says=lambda side: f"{side} on the short side",
            when=lambda side: f"{side} lines",
            releases=RATES,
            recipe=InRecipe.ADAPTS,
            unit="px",
            typed_as="Short side",
        ),
        Choice(
            name="frame_rate",
            setting="Frame rate",
            says=rate_text,
            when=lambda rate: f"{rate_text(rate)} frames/s",
            releases=RATES,
            recipe=InRecipe.ADAPTS,
            unit="1/s",
            times=0,
            typed_as="Frame rate",
        ),
        Choice(
            name="video_bitrate_bps",
            setting="Bit rate",
            says=mbps_text,
            releases=("times_enough",),
            recipe=InRecipe.ADAPTS,
            unit="Mbit/s",
            times=1e6,
            typed_as="Bit rate",
        ),
        Choice(name="times_enough", setting="Bit rate", says=enough_words),
        Choice(
            name="ceiling_bps",
            setting="Ceiling",
            says=mbps_text,
            when=lambda bps: f"ceiling {mbps_text(bps)}",
            recipe=InRecipe.ADAPTS,
            unit="Mbit/s",
            times=1e6,
            typed_as="Ceiling",
        ),
        Choice(name="buffer_s", setting="Buffer", says=lambda s: f"{s:g} s", when=lambda s: f"buffer {s:g} s", unit="s", typed_as="Buffer"),
        Choice(
            name="keyframe_interval_s",
            setting="Keyframes",
            says=lambda s: f"every {s:g} s",
            when=lambda s: f"keyframes every {s:g} s",
            unit="s",
            typed_as="Keyframes every",
        ),
        Choice(
            name="sound_bitrate_bps",
            setting="Sound rate",
            says=lambda bps: f"{bps // 1000} kbit/s",
            when=lambda bps: f"sound {bps // 1000} kbit/s",
            unit="kbit/s",
            times=1000,
            typed_as="Sound",
        ),
        Choice(name="sample_rate_hz", setting="Sample rate", says=lambda hz: f"{hz / 1000:g} kHz", unit="Hz", typed_as="Sample rate"),
        Choice(name="channels", setting="Channels", says=CHANNELS.__getitem__, typed_as="Channels"),
        Choice(
            name="gain_db",
            setting="Level",
            says=lambda db: f"{db:+.1f} dB".replace("-", "−"),
            recipe=InRecipe.NOT,
            unit="dB",
            typed_as="Gain",
        ),
        Choice(
            name="max_bytes",
            setting="Size limit",
            says=size_text,
            when=lambda size: f"under {size_text(size)}",
            releases=RATES,
            unit="MB",
            times=1e6,
            typed_as="Size limit",
        ),
    )
}
"""In the order in which they are taken over from a recipe, each on top of those before."""


def released(part: dict[str, Any]) -> dict[str, None]:
    """What a change gives back to the plan, since it was chosen for what is no more; what is in the change itself stays."""
    return {name: None for key in part if key in TABLE for name in TABLE[key].releases if name not in part}


def says(name: str, value: Any) -> str:
    """A value of a choice in words; “left to the plan” where nothing is chosen."""
    choice = TABLE[name]
    return "left to the plan" if value is None and choice.usual is None else choice.says(value)
