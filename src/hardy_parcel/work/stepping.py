"""A child process that shows single pictures of one master: stays open while somebody steps through it.

    python -m hardy_parcel.work.stepping
    stdin   first line {"path": …, "facts": …, "destination": …}; then one wish a line:
            {"number": 120, "exact": true} for the master's picture,
            {"number": 120, "framed": plan of a picture} for what the encoder would get of it,
            {"number": 120, "effect": plan of a picture} for a part of that with and without its sharpening
    stdout  for each wish the picture's "number" and pictures as base64, or {"problem": …}
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path
from typing import Any

from ..core.errors import HardyParcelError
from ..core.master.facts import MasterFacts
from ..core.plan.plan import VideoPlan
from ..core.sheets.sheet import Destination
from ..media.stepper import Stepper
from .child import READING_MEMORY


def _answer(viewer: Stepper, asked: dict[str, Any]) -> dict[str, Any]:
    if plan := asked.get("framed"):
        return viewer.packed_picture(asked["number"], VideoPlan.model_validate(plan))
    if plan := asked.get("effect"):
        return viewer.effect(asked["number"], VideoPlan.model_validate(plan))
    return viewer.show(asked["number"], exact=asked["exact"])


def main() -> int:
    line = sys.stdin.readline()
    if not line:
        return 0
    resource.setrlimit(resource.RLIMIT_AS, (READING_MEMORY, READING_MEMORY))
    task = json.loads(line)
    viewer = None
    for wish in sys.stdin:
        try:
            if viewer is None:
                viewer = Stepper(
                    Path(task["path"]), MasterFacts.model_validate(task["facts"]), Destination.model_validate(task["destination"])
                )
            asked = json.loads(wish)
            told = _answer(viewer, asked)
        except HardyParcelError as error:
            told = {"problem": error.problem().model_dump(mode="json")}
        except Exception as error:
            print(f"viewer: {type(error).__name__}: {error}", file=sys.stderr)
            ours = HardyParcelError("This picture could not be shown.", "Choose another place.")
            told = {"problem": ours.problem().model_dump(mode="json")}
        sys.stdout.write(json.dumps(told) + "\n")
        sys.stdout.flush()
    return 0


if __name__ == "__main__":
    sys.exit(main())
