"""Recipes: choices kept as intents, which hold for any master, and what becomes of them on another one.

A recipe holds how a parcel is meant: shape and framing, codec, size against the master, bit rate as a multiple of the guidance,
what is left out, a size limit. It leaves to each master what is the master's own: its excerpt, its focus, what is mended, the
gain of its sound, and every number that follows, such as bits per second.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from ..arrival.docked import Words
from ..errors import BadChoice
from ..master.facts import Excerpt, FramingMode, MasterFacts
from ..plan.choice_table import TABLE, InRecipe, says
from ..plan.choices import Captions, Choices, Method
from ..plan.framing import MOST_ZOOM
from ..plan.naming import FilePattern, FolderName
from ..plan.packing_slip import packing_slip
from ..plan.plan import Plan
from ..plan.planning import make_plan
from ..sheets.sheet import Destination, Shape
from ..trade.names import Codec, Container, SoundCodec
from ..trade.rate_control import Effort, RateControl
from ..values import Model, OneLine, Ratio, rate_text

FREE_RATE = Fraction(30)
"""Halving a frame rate is meant to bring it to this or below; a rate that is there already is left alone."""


class Intent(Model):
    """How one destination's parcel is meant; None leaves a value to the plan.

    `times_guidance` is of the top of the guidance, `times_enough` of what is enough for each film, `ceiling_times` of the bit
    rate. `short_side_px` is an upper limit of the size, or with `enlarges` a size to go up to. `halves_rate` asks for every second picture.
    """

    framing: FramingMode | None = None
    shape: Shape | None = None
    zoom: Annotated[float, Field(ge=1, le=MOST_ZOOM)] = 1.0
    sharpen: bool = False
    method: Method | None = None
    codec: Codec | None = None
    container: Container | None = None
    short_side_px: Annotated[int, Field(ge=64, le=4_320)] | None = None
    enlarges: bool = False
    halves_rate: bool = False
    frame_rate: Annotated[Ratio, Field(ge=1, le=240)] | None = None
    rate_control: RateControl | None = None
    times_guidance: Annotated[float, Field(gt=0, le=100)] | None = None
    times_enough: Annotated[float, Field(ge=1, le=10)] | None = None
    ceiling_times: Annotated[float, Field(ge=1, le=20)] | None = None
    buffer_s: Annotated[float, Field(ge=0.1, le=10)] | None = None
    quality: Annotated[int, Field(ge=1, le=63)] | None = None
    keyframe_interval_s: Annotated[float, Field(ge=0.1, le=20)] | None = None
    effort: Effort | None = None
    fast_start: bool | None = None
    chapters: bool | None = None
    captions: Captions | None = None
    picture: bool = True
    sound: bool = True
    sound_codec: SoundCodec | None = None
    sound_bitrate_bps: Annotated[int, Field(ge=16_000, le=512_000)] | None = None
    sample_rate_hz: Annotated[int, Field(ge=8_000, le=192_000)] | None = None
    channels: Annotated[int, Field(ge=1, le=2)] | None = None
    max_bytes: Annotated[int, Field(ge=1_000, le=1_000_000_000_000)] | None = None


SAME_IN_BOTH = tuple(choice.name for choice in TABLE.values() if choice.recipe is InRecipe.SAME)
"""Choices that mean the same on every master, in the order in which they are taken over, each on top of those that could be."""
SETTING = {name: choice.setting for name, choice in TABLE.items()} | {
    "halves_rate": "Frame rate", "times_guidance": "Bit rate", "ceiling_times": "Ceiling",
}


class MadeRow(Model):
    """One line of the slip of the parcel that a recipe was made on."""

    setting: str
    value: str


class RecipePart(Model):
    """What a recipe means for one destination, and what that came to where it was made."""

    destination_id: Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9]*(-[a-z0-9]+)*$", max_length=130)]
    intent: Intent
    made: Annotated[tuple[MadeRow, ...], Field(max_length=40)] = ()


class Recipe(Model):
    """Choices for a set of destinations, kept for other masters; `made_on` is the name of the master they were made on. `file_pattern`
    and `folder` are how files are called and where they go; empty where that is as for all. `words` go along when they are sent."""

    schema_version: Literal[3] = 3
    id: Annotated[str, StringConstraints(pattern=r"^[a-z0-9-]{1,40}$")]
    name: Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True), OneLine]
    note: Annotated[str, Field(max_length=2_000)] = ""
    starred: bool = False
    made_on: Annotated[str, Field(max_length=255)] = ""
    file_pattern: FilePattern = ""
    folder: FolderName = ""
    words: Words = Words()
    parts: Annotated[tuple[RecipePart, ...], Field(min_length=1, max_length=30)]


def intent_of(choices: Choices, plan: Plan) -> Intent:
    """What the choices mean, freed of this master's own numbers."""
    kept: dict[str, Any] = {name: getattr(choices, name) for name in SAME_IN_BOTH}
    video = plan.video
    if video and not plan.copied:
        if choices.video_bitrate_bps and not choices.times_enough and plan.guidance:
            kept["times_guidance"] = round(plan.guidance.multiple_of(choices.video_bitrate_bps), 3)
        if choices.ceiling_bps:
            kept["ceiling_times"] = round(max(1.0, choices.ceiling_bps / video.target_bps.value), 3)
        if choices.short_side_px:
            kept |= {"short_side_px": choices.short_side_px, "enlarges": video.framing.value.enlargement() > 1.001}
        if choices.frame_rate:
            halves = video.keep_every == 2
            kept |= {"halves_rate": halves, "frame_rate": None if halves else choices.frame_rate}
    return Intent(**kept)


class IntentChange(Model):
    """One thing that is otherwise here than in the recipe: what it was there, what it is here, and why."""

    setting: str
    before: str
    after: str
    because: str


def choices_for(
    intent: Intent, facts: MasterFacts, destination: Destination, excerpt: Excerpt | None = None
) -> tuple[Choices, tuple[IntentChange, ...]]:
    """The choices that bring the intent about on this master, and what of it could not be had, with the reason."""
    choices, left = Choices(), list[IntentChange]()

    def take(words: str, **changes: Any) -> Plan | None:
        nonlocal choices
        wanted = choices.model_copy(update=changes)
        try:
            plan = make_plan(facts, destination, wanted, excerpt)
        except BadChoice as error:
            said = _said(next(iter(changes)), intent)
            left.append(IntentChange(setting=words, before=said, after="left to the plan", because=error.what))
            return None
        choices = wanted
        return plan

    for name in SAME_IN_BOTH:
        if getattr(intent, name) != getattr(Choices(), name):
            take(SETTING[name], **{name: getattr(intent, name)})
    plan = make_plan(facts, destination, choices, excerpt)
    if plan.video is None or plan.copied:
        return choices, tuple(left)
    for size in _size(intent, plan, left):
        plan = take("Frame size", short_side_px=size) or plan
    for rate in _rate(intent, plan, left):
        plan = take("Frame rate", frame_rate=rate) or plan
    if intent.times_guidance and plan.guidance:
        plan = take("Bit rate", video_bitrate_bps=plan.guidance.times(intent.times_guidance)) or plan
    if intent.ceiling_times and plan.video and plan.video.ceiling_bps.value is not None:
        take("Ceiling", ceiling_bps=min(800_000_000, round(plan.video.target_bps.value * intent.ceiling_times)))
    return choices, tuple(left)


def _size(intent: Intent, plan: Plan, left: list[IntentChange]) -> Iterator[int]:
    """The short side to ask for, unless this master's own is already on the wanted side of it."""
    if intent.short_side_px is None:
        return
    framing = plan.picture.framing.value
    side = min(framing.width, framing.height)
    if side < intent.short_side_px if not intent.enlarges else side > intent.short_side_px:
        why = "is smaller already and is not enlarged" if not intent.enlarges else "is larger already"
        left.append(IntentChange(
            setting="Frame size", before=_said("short_side_px", intent), after=f"{framing.width}×{framing.height}",
            because=f"this master {why}",
        ))
        return
    if side != intent.short_side_px:
        yield intent.short_side_px


def _rate(intent: Intent, plan: Plan, left: list[IntentChange]) -> Iterator[Fraction]:
    rate = plan.picture.frame_rate.value
    if intent.halves_rate:
        if rate > FREE_RATE:
            yield rate / 2
        else:
            left.append(IntentChange(
                setting="Frame rate", before="every second picture", after=rate_text(rate),
                because="this master has no more pictures a second than halving was to leave",
            ))
    elif intent.frame_rate and intent.frame_rate != rate:
        if (rate / intent.frame_rate).denominator == 1:
            yield intent.frame_rate
        else:
            left.append(IntentChange(
                setting="Frame rate", before=rate_text(intent.frame_rate), after=rate_text(rate),
                because="the master's rate does not divide evenly, so its own is kept exactly",
            ))


def changes_here(part: RecipePart, plan: Plan, left: tuple[IntentChange, ...]) -> tuple[IntentChange, ...]:
    """Everything that is otherwise here than where the recipe was made: what was left, then every differing line of the slip."""
    here = {row.setting: row for row in packing_slip(plan)}
    there = {row.setting: row.value for row in part.made}
    rows = []
    for setting in dict.fromkeys([*there, *here]) if part.made else ():
        before, now = there.get(setting, "none"), here[setting].value if setting in here else "none"
        if before != now and setting not in {change.setting for change in left}:
            because = here[setting].because if setting in here else "there is nothing of it here"
            rows.append(IntentChange(setting=setting, before=before, after=now, because=because))
    return (*left, *rows)


def part_of(destination_id: str, choices: Choices, plan: Plan) -> RecipePart:
    """One destination's part of a recipe, as it stands on this master."""
    made = tuple(MadeRow(setting=row.setting, value=row.value) for row in packing_slip(plan))
    return RecipePart(destination_id=destination_id, intent=intent_of(choices, plan), made=made)


class IntentRow(Model):
    """One intent in words."""

    setting: str
    says: str


def _said(name: str, intent: Intent) -> str:
    """An intent's value in words; `name` is that of the intent or of the choice that it became."""
    name = {"video_bitrate_bps": "times_guidance", "ceiling_bps": "ceiling_times"}.get(name, name)
    if name == "frame_rate" and intent.halves_rate:
        name = "halves_rate"
    value = getattr(intent, name)
    own: dict[str, Callable[[], str]] = {
        "short_side_px": lambda: f"{'up to' if intent.enlarges else 'at most'} {value} on the short side",
        "halves_rate": lambda: "every second picture where there are more than 30 a second",
        "frame_rate": lambda: f"{rate_text(value)} where it divides evenly", "times_guidance": lambda: f"{round(value, 2):g} × guidance",
        "ceiling_times": lambda: f"{round(value, 2):g} × the bit rate",
    }
    if value is None:
        return "left to the plan"
    return own[name]() if name in own else says(name, value)


def intent_rows(intent: Intent) -> tuple[IntentRow, ...]:
    """What an intent asks for, line by line; empty where all is left to the plan."""
    usual = Intent()
    return tuple(
        IntentRow(setting=SETTING[name], says=_said(name, intent))
        for name in Intent.model_fields
        if name != "enlarges" and getattr(intent, name) != getattr(usual, name)
    )


def differences(recipe: Intent, now: Intent) -> tuple[IntentChange, ...]:
    """What differs between a recipe's intent and the current one, in words."""
    there, here = ({row.setting: row.says for row in intent_rows(one)} for one in (recipe, now))
    return tuple(
        IntentChange(setting=name, before=there.get(name, "left to the plan"), after=here.get(name, "left to the plan"), because="")
        for name in dict.fromkeys([*there, *here]) if there.get(name) != here.get(name)
    )
