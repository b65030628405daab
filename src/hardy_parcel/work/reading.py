"""A file's facts, and its checks, read in child processes."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack
from pathlib import Path

from ..core.master.checks.combing import measured_scan
from ..core.master.checks.evidence import Checked
from ..core.master.checks.sound_levels import SoundLevels, heard_in
from ..core.master.checks.stamping import CheckStamp, check_stamps
from ..core.master.facts import FileFacts, MasterFacts
from ..processes.client import Child
from ..processes.messages import FactsFound, Inspected, InspectTask, Listened, ListenTask, OnTheWay, Outcome, ProgressMade

HEADER_LIMIT_S, WHOLE_LIMIT_S = 90.0, 900.0
Say = Callable[[str, float], None]


def read_facts(path: Path, *, loudness: bool = True, say: Say = lambda doing, share: None) -> FileFacts:
    """The facts of a file; MasterFacts when it has a picture. Raises NotFound or UnreadableMaster."""
    return read_heard(path, loudness=loudness, say=say)[0]


def read_heard(path: Path, *, loudness: bool = True, say: Say = lambda doing, share: None) -> tuple[FileFacts, SoundLevels | None]:
    """The facts of a file, whether it is interlaced measured, and the levels along its sound, from which those of any excerpt follow."""
    facts, _, levels = _read(path, look=False, scan=loudness, listen=loudness, say=say)
    return heard_in(facts, levels, None), levels


def read_looked_through(path: Path, say: Say = lambda doing, share: None) -> tuple[FileFacts, tuple[CheckStamp, ...], SoundLevels | None]:
    """Facts, stamps of every check, and the levels along the sound."""
    facts, checked, levels = _read(path, look=True, listen=True, say=say)
    return heard_in(facts, levels, None), check_stamps(facts, checked), levels


def read_checked(path: Path, say: Say = lambda doing, share: None) -> tuple[FileFacts, Checked, tuple[CheckStamp, ...]]:
    """Facts, evidence and stamps of a file."""
    facts, checked, _ = _read(path, look=True, listen=True, say=say)
    return facts, checked, check_stamps(facts, checked)


def _read(path: Path, *, look: bool, scan: bool = False, listen: bool, say: Say) -> tuple[FileFacts, Checked, SoundLevels | None]:
    """Two children that load side by side: one reads the header and looks, the other listens once the header is known."""
    listening: Future[Outcome] | None = None
    with ExitStack() as open_things:
        beside = open_things.enter_context(ThreadPoolExecutor(1))
        looker = open_things.enter_context(Child())
        listener = open_things.enter_context(Child()) if listen else None

        def hear(message: OnTheWay) -> None:
            nonlocal listening
            if isinstance(message, ProgressMade):
                say(message.progress.doing, message.progress.share)
            elif isinstance(message, FactsFound) and listener and message.facts.audio:
                listening = beside.submit(listener.run, ListenTask(path=path, facts=message.facts), hear=hear, limit_s=WHOLE_LIMIT_S)

        task = InspectTask(path=path, sound_too=True, look=look, scan=scan)
        found = looker.run(task, hear=hear, limit_s=WHOLE_LIMIT_S if look else HEADER_LIMIT_S)
        heard = listening.result() if listening else None
    if not isinstance(found, Inspected) or not (heard is None or isinstance(heard, Listened)):
        raise TypeError("a child gave back the outcome of another task")
    facts = found.facts
    if found.survey and isinstance(facts, MasterFacts):
        facts = facts.model_copy(update={"measured_scan": measured_scan(found.survey.windows).scan})
    if heard and facts.audio:
        facts = facts.model_copy(update={"audio": facts.audio.model_copy(update=heard.loudness.model_dump())})
    return facts, Checked(picture=found.survey, sound=heard.sound if heard else None), heard.levels if heard else None
