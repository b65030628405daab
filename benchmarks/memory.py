"""Peak memory of a packing child for a film and one eight times as long: prints the ratio."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
from fractions import Fraction
from pathlib import Path

import numpy as np
from tests.films import shimmer

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import Effort
from hardy_parcel.demo import gale, sounds
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect

from .films import SIZE, scene, there_and_back

LENGTHS_S = (15, 120)
CHILD = "import sys; from hardy_parcel.work.child import main; main(sys.argv[1])"


def peak_kib(master: Path, folder: Path) -> int:
    """Peak resident memory of a child that packs this film, in KiB."""
    facts = inspect(master)
    place = destination("orrery-wide")
    plan = make_plan(facts, place, Choices(effort=Effort.QUICK))
    task = {
        "kind": "pack", "job_id": master.stem, "path": str(master), "facts": facts.model_dump(mode="json"),
        "plan": plan.model_dump(mode="json"), "destination": place.model_dump(mode="json"),
        "folder": str(folder), "file_name": f"packed {master.name}",
    }
    with tempfile.TemporaryDirectory(dir=folder) as scratch:
        child = subprocess.Popen([sys.executable, "-c", CHILD, scratch], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        child.stdin.write(json.dumps(task) + "\n")
        child.stdin.flush()
        last = next(one for one in map(json.loads, child.stdout) if one["kind"] != "progress")
        # The high-water mark of this program alone, while it is still there; what getrusage tells includes the parent that was forked.
        peak = int(re.search(r"VmHWM:\s+(\d+)", Path(f"/proc/{child.pid}/status").read_text())[1])
        child.stdin.close()
        child.wait()
    if last["kind"] != "parcel_packed":
        raise SystemExit(f"packing failed: {last}")
    return peak


def main(*, small: bool = False) -> None:
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        lengths_s = (1, 2) if small else LENGTHS_S
        folder, pictures, peaks = Path(scratch), list(shimmer(*SIZE, 10)) if small else scene(gale), []
        for seconds in lengths_s:
            path = folder / f"{seconds}.mp4"
            write_film(
                path, width=SIZE[0], height=SIZE[1], frame_rate=Fraction(25), quality=18,
                pictures=there_and_back(pictures, seconds * 25),
                sound=(sounds.wind(1, seconds)[None, :].repeat(2, 0) * 0.1).astype(np.float32),
            )
            peaks.append(peak_kib(path, folder))
        print(f"peak memory of a packing child: {peaks[0] / 1024:.0f} MiB for {lengths_s[0]} s, {peaks[1] / 1024:.0f} MiB for "
              f"{lengths_s[1]} s, ratio {peaks[1] / peaks[0]:.2f}")


if __name__ == "__main__":
    main(small="--small" in sys.argv)
