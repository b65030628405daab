"""The plan of every made-up master for every destination, with the reason of each value: docs/plans.md, to be read critically.

    python -m benchmarks.plans FOLDER    FOLDER holds the masters; their facts are kept in docs/masters.json

A test makes the page again from those facts, so that a change of advice shows as a change of the page.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.plan.carrying import file_size
from hardy_parcel.core.plan.packing_slip import packing_slip
from hardy_parcel.core.plan.plan import Plan
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.values import seconds_text, size_text
from hardy_parcel.docks.shipped import shipped_destinations
from hardy_parcel.work.reading import read_heard

DOCS = Path(__file__).parents[1] / "docs"
PAGE, FACTS = DOCS / "plans.md", DOCS / "masters.json"
HEAD = """# Every plan, with its reasons

What the program plans of itself for each made-up master of Skerry Point and each destination that ships, made by `make plans` from
the facts in `masters.json`. Nothing here was chosen by hand; whoever changes a rule reads what it does to this page.
"""


def masters() -> list[MasterFacts]:
    """The kept facts of the made-up masters."""
    return [MasterFacts.model_validate(one) for one in json.loads(FACTS.read_text())]


def page(films: list[MasterFacts]) -> str:
    """The page, from the facts of its masters."""
    parts = [HEAD]
    for facts in films:
        video = facts.video
        parts.append(
            f"## {facts.name.rsplit('.', 1)[0]}\n\n{video.display_width}×{video.display_height}, {seconds_text(facts.duration_s)} long, "
            f"{size_text(facts.size_bytes)}\n"
        )
        parts += [_section(make_plan(facts, place)) for place in shipped_destinations().values()]
    return "\n".join(parts)


def _section(plan: Plan) -> str:
    size = file_size(plan)
    lines = [f"### {plan.destination_name}\n", f"About {size_text(size.expected_bytes)}, {size_text(size.worst_bytes)} at most.\n"]
    lines += ["| setting | value | because |", "|---|---|---|"]
    lines += [f"| {row.setting} | {row.value} | {row.because} |" for row in packing_slip(plan)]
    lines += [f"\n*{stamp.outcome}*, {stamp.matter}: {stamp.sentence}" for stamp in plan.stamps]
    return "\n".join(lines) + "\n"


def main() -> None:
    if len(sys.argv) > 1:
        found = [read_heard(path)[0] for path in sorted(Path(sys.argv[1]).glob("*.mp4"))]
        FACTS.write_text(json.dumps([facts.model_dump(mode="json") for facts in found], indent=1, ensure_ascii=False) + "\n")
    PAGE.write_text(page(masters()))
    print(f"{PAGE.name}: {len(masters())} masters")


if __name__ == "__main__":
    main()
