"""From a help page to forecasts that can be trusted: the steps, where a sheet stands, and how far its figures hold at each."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from enum import StrEnum

from ..sheets.sheet import Placement
from ..values import Model
from .curve import ASSUMED_BAND
from .learning import FileError

ENOUGH_FILES = 2
"""Of one film a harder quality and a lower ceiling can look alike."""


class StepKey(StrEnum):
    GUIDANCE = "guidance"
    HANDLING = "handling"
    SENT = "sent"
    RETURNED = "returned"
    CORRECTED = "corrected"


class TrustStep(Model):
    """One step: whether it is done, what to do or what was done, and how far figures can be trusted once it is."""

    key: StepKey
    title: str
    done: bool
    told: str
    trust: str


class TrustPath(Model):
    """All steps of one placement, and how far its figures can be trusted now."""

    steps: tuple[TrustStep, ...]
    trust: str

    @property
    def next_step(self) -> StepKey | None:
        """The first that is not done; None where all are."""
        return next((one.key for one in self.steps if not one.done), None)


def trust_path(
    name: str, place: Placement, *, packed: int, returned: int, changes: int, errors: Sequence[FileError], ours: bool
) -> TrustPath:
    """Where a sheet stands on its way. `name` is the platform's; `packed` and `returned` count parcels for it and files of them that came
    back and were measured, `changes` what these would still change in its handling, and `errors` are those of its handling on each.
    `ours` says that its handling is that of a stand-in that ships, which is known."""
    handling = place.handling
    rows = len(place.guidance)
    known = [one.after for one in errors if one.after is not None and not one.outlier]
    corrected = returned > 0 and not changes
    steps = (
        TrustStep(
            key=StepKey.GUIDANCE, title="Paste its guidance", done=rows > 0,
            told=f"{rows} rates that {name} asks for are in the sheet." if rows
            else "Copy the table of sizes and bit rates from its help page and paste it into the sheet.",
            trust="Plans keep to what the platform asks for. What arrives is not told by that.",
        ),
        TrustStep(
            key=StepKey.HANDLING, title="Assume how it re-encodes", done=bool(handling.tiers),
            told=_handling_told(name, place, ours=ours),
            trust="Forecasts go by that ladder, and are as right as it is." if handling.tiers and not handling.assumed
            else f"Forecasts are marked as assumed until something came back, and told to ± {ASSUMED_BAND:.0f} points at the least.",
        ),
        TrustStep(
            key=StepKey.SENT, title="Send one parcel by hand", done=packed > 0,
            told=f"{_count(packed, 'parcel')} packed for it: upload one yourself, as any film." if packed
            else "Pack a minute that is calm in one half and rough in the other: of a film that is alike throughout nobody can tell a "
            "harder quality from a lower ceiling.",
            trust="No more than before: only what it serves tells.",
        ),
        TrustStep(
            key=StepKey.RETURNED, title="Bring back what it serves", done=returned > 0,
            told=f"{_count(returned, 'file')} came back and {'was' if returned == 1 else 'were'} measured." if returned
            else "Once it is processed, save the best file that it plays and bring it here.",
            trust="What came back is measured, not forecast: that parcel's figures are as good as any can be.",
        ),
        TrustStep(
            key=StepKey.CORRECTED, title="Correct the sheet", done=corrected,
            told=_corrected_told(returned, changes, known), trust=_learnt(known),
        ),
    )
    return TrustPath(steps=steps, trust=_now(steps, place, known, ours=ours))


def _count(number: int, what: str) -> str:
    return f"{number} {what}" if number == 1 else f"{number} {what}s"


def _handling_told(name: str, place: Placement, *, ours: bool) -> str:
    handling = place.handling
    if handling.assumed:
        return f"Assumed {handling.assumed}. Better a guess that is said than none."
    if handling.tiers:
        return f"What {name} does is known." if ours else "A ladder is in the sheet."
    return "The sheet says that every byte is served as it was sent. Few platforms do that: choose gentle, middling or harsh."


def _corrected_told(returned: int, changes: int, known: Sequence[float]) -> str:
    if not returned:
        return "What came back tells quality and ceilings of its ladder."
    if changes:
        return f"What came back would change {_count(changes, 'value')} of its handling."
    return f"The handling explains what came back, to {statistics.fmean(known):.1f} points." if known else "Nothing is left to correct."


def _learnt(known: Sequence[float]) -> str:
    if len(known) >= ENOUGH_FILES:
        return f"Forecasts go by {len(known)} films that came back, and would have been {statistics.fmean(known):.1f} points off on them."
    return "One film tells much, but of films unlike it quality and ceiling may still be mixed up: bring back a second one."


def _now(steps: Sequence[TrustStep], place: Placement, known: Sequence[float], *, ours: bool) -> str:
    done = {one.key: one.done for one in steps}
    if done[StepKey.CORRECTED]:
        return _learnt(known)
    if ours and done[StepKey.HANDLING] and not place.handling.assumed:
        return "It is a stand-in that ships: what it does to an upload is known, and forecasts have the bands that they tell."
    if done[StepKey.RETURNED]:
        return "Parcels that came back are measured; all others are still forecast by a handling that did not explain them."
    if not done[StepKey.GUIDANCE]:
        return "Not yet: the sheet does not say what is asked for, and nothing has confirmed what becomes of an upload."
    if place.handling.assumed:
        return f"Plans can be trusted, forecasts are an assumption: ± {ASSUMED_BAND:.0f} points at the least."
    if done[StepKey.HANDLING]:
        return "Forecasts go by the ladder in the sheet, which nothing has confirmed yet."
    return "Plans keep to what is asked for; forecasts are of the very upload, since the sheet says that nothing is re-encoded."
