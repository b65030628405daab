"""Measures every check on made films: misses and false alarms, as a table that is kept in docs/accuracy.md.

    python -m benchmarks.detectors [part of a clip's name …]

Given names, only those clips are made and every disagreement is told, without touching the document.
"""

from __future__ import annotations

import os
import sys
import tempfile
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from hardy_parcel.core.master.checks.evidence import Checked
from hardy_parcel.core.master.checks.stamping import check_stamps
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.stamps import Outcome
from hardy_parcel.media.inspect import read_file
from hardy_parcel.media.loudness import measure_sound
from hardy_parcel.media.survey import survey

from .detector_clips import every_clip
from .detector_films import Clip

DOCUMENT = Path("docs/accuracy.md")
BEGIN, END = "<!-- detectors: begin -->", "<!-- detectors: end -->"
BAR = 0.05


def found_on(path: Path) -> dict[str, str]:
    """Codes that did not clear, with what was seen, by the program's own reading of a file."""
    facts = read_file(path, loudness=False)
    sound = picture = None
    if facts.audio:
        loudness, sound, _ = measure_sound(path, start_s=facts.video.start_s if facts.video else 0)
        facts = facts.model_copy(update={"audio": facts.audio.model_copy(update=loudness.as_facts())})
    if isinstance(facts, MasterFacts):
        picture = survey(path, facts.video, facts.duration_s)
    stamps = check_stamps(facts, Checked(picture=picture, sound=sound))
    return {stamp.code: stamp.seen for stamp in stamps if stamp.outcome is not Outcome.CLEARED}


def judge(clip: Clip) -> dict[str, str]:
    """What was found on a clip that is made for it and removed again."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"{clip.name}{clip.ending}"
        clip.make(path)
        return found_on(path)


def _told(clip: Clip) -> dict[str, str]:
    try:
        return judge(clip)
    except Exception as error:
        return {"failed": f"{type(error).__name__}: {error}"}


def _judge_number(number: int) -> dict[str, str]:
    return _told(every_clip()[number])


def main() -> int:
    clips = every_clip()
    wanted = [i for i, clip in enumerate(clips) if not sys.argv[1:] or any(part in clip.name for part in sys.argv[1:])]
    missed: dict[str, list[str]] = defaultdict(list)
    alarms: dict[str, list[str]] = defaultdict(list)
    with_it: dict[str, int] = defaultdict(int)
    without: dict[str, int] = defaultdict(int)
    codes = sorted({code for clip in clips for code in clip.codes})
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for number, found in zip(wanted, pool.map(_judge_number, wanted), strict=True):
            clip = clips[number]
            for code in codes:
                if code in clip.codes:
                    with_it[code] += 1
                    if code not in found:
                        missed[code].append(clip.name)
                elif code not in clip.doubtful:
                    without[code] += 1
                    if code in found:
                        alarms[code].append(f"{clip.name}: {found[code]}")
            wrong = (clip.codes ^ set(found)) - clip.doubtful
            if wrong:
                print(f"{clip.name}: {', '.join(f'{c} {found.get(c, chr(8212))}' for c in sorted(wrong))}", flush=True)
    lines = ["| check | films with it | missed | films without | false alarms |", "|---|---|---|---|---|"]
    good = True
    for code in codes:
        share, false = len(missed[code]) / max(1, with_it[code]), len(alarms[code]) / max(1, without[code])
        good = good and share <= BAR and false <= BAR
        found, wrong = f"{len(missed[code])} ({share:.1%})", f"{len(alarms[code])} ({false:.1%})"
        lines.append(f"| `{code}` | {with_it[code]} | {found} | {without[code]} | {wrong} |")
    print("\n".join(lines))
    if len(wanted) == len(clips) and DOCUMENT.exists():
        text = DOCUMENT.read_text()
        if BEGIN in text and END in text:
            before, rest = text.split(BEGIN)
            DOCUMENT.write_text(f"{before}{BEGIN}\n" + "\n".join(lines) + f"\n{END}{rest.split(END)[1]}")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
