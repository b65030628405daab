"""A parcel: one excerpt of a master for one destination, with its own choices; and how siblings differ."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..arrival.docked import Words
from ..master.facts import Excerpt
from ..plan.choice_table import TABLE, enough_words
from ..plan.choices import Choices
from ..plan.naming import FilePattern, FolderName
from ..plan.plan import Plan
from ..trade.codecs import name_of
from ..values import Model, OneLine, minutes_text

ShortName = Annotated[str, Field(max_length=200)]


class Parcel(Model):
    """What a creator keeps of a parcel. A master has as many as one likes, several for one destination too.

    `excerpt` None is the whole master; `sheet_version` None the newest; `name` empty when it was not given one. `sibling_of` is
    the parcel that it was made from to try another way. `served_by` is another parcel of the same master whose file goes to this one's
    destination too; its own choices wait meanwhile. One that is not `shown` is put away, with its choices. `file_pattern` and `folder`
    are how its file is called and where it goes; empty where that is as for all. `words` are what goes along when it is sent.
    `revision` rises with every change of it.
    """

    id: ShortName
    master_id: ShortName
    destination_id: Annotated[str, Field(max_length=130)]
    sheet_version: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    excerpt: Excerpt | None = None
    choices: Choices = Choices()
    name: Annotated[str, Field(max_length=80), OneLine] = ""
    place: Annotated[int, Field(ge=0, le=10_000)] = 0
    sibling_of: ShortName | None = None
    served_by: ShortName | None = None
    shown: bool = True
    file_pattern: FilePattern = ""
    folder: FolderName = ""
    words: Words = Words()
    revision: Annotated[int, Field(ge=0)] = 0


def difference(parcel: Parcel, plan: Plan, other: Parcel, other_plan: Plan) -> str:
    """What sets a parcel apart from another of the same master, in a phrase such as “HEVC, 0:12 to 0:40”; empty where nothing does.

    Choices that came to the same in both plans are no difference.
    """
    found = []
    if parcel.destination_id != other.destination_id:
        found.append(plan.destination_name)
    if plan.excerpt != other_plan.excerpt:
        found.append(f"{minutes_text(plan.excerpt.in_s)} to {minutes_text(plan.excerpt.out_s)}")
    for choice in TABLE.values():
        mine, theirs = getattr(parcel.choices, choice.name), getattr(other.choices, choice.name)
        if mine == theirs:
            continue
        if choice.name in ("video_bitrate_bps", "times_enough"):
            times = parcel.choices.times_enough
            found.append(enough_words(times) if times else rate_phrase(plan))
        elif choice.name == "codec":
            found.append(name_of(plan.video.codec.value) if plan.video else "no picture")
        else:
            found.append(choice.phrase(mine))
    return ", ".join(dict.fromkeys(phrase for phrase in found if phrase))


def rate_phrase(plan: Plan) -> str:
    """A plan's bit rate against the guidance, in words; empty without either."""
    return plan.guidance.words_for(plan.video.target_bps.value) if plan.video and plan.guidance else ""
