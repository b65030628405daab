"""Other ways that lie beside a parcel's curve: the codecs that its destination takes too, and the next frame sizes up and down."""

from __future__ import annotations

from typing import Any

from ..errors import BadChoice
from ..master.facts import Excerpt, MasterFacts
from ..plan.choices import Choices
from ..plan.plan import Plan
from ..plan.planning import changed
from ..sheets.sheet import Destination
from ..trade.codecs import PROBED_QUALITIES, name_of
from ..values import Model
from .offers import sizes_beside


class WhatIf(Model):
    """Another way: its name at the line, the choices that it changes, and all of them then."""

    words: str
    part: dict[str, Any]
    choices: Choices


def what_ifs(
    facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan, excerpt: Excerpt
) -> tuple[WhatIf, ...]:
    """The ways worth comparing with a plan, codecs first; none where nothing is encoded. What no plan can follow is left out."""
    if plan.video is None or plan.copied or plan.guidance is None:
        return ()
    own = plan.video.codec.value
    wanted: list[tuple[str, dict[str, Any]]] = [
        (name_of(codec), {"codec": codec, "video_bitrate_bps": None})
        for codec in destination.placement.codecs
        if codec != own and codec in PROBED_QUALITIES
    ]
    wanted += [(f"{side} lines", {"short_side_px": side}) for side in sizes_beside(facts, destination, choices, plan)]
    found = []
    for words, part in wanted:
        try:
            found.append(WhatIf(words=words, part=part, choices=changed(facts, destination, choices, part, excerpt)))
        except BadChoice:
            continue
    return tuple(found)
