"""Which readings and checks a master still needs, put into the queue."""

from __future__ import annotations

from pathlib import Path

from ..core.master.facts import MasterFacts
from ..processes.messages import BenchmarkTask, CheckTask, InspectTask, ListenTask, StripTask
from ..store import jobs, masters
from ..store.database import Database
from ..store.jobs import Job, JobKind
from ..store.places import Places


def queue_inspect(database: Database, master_id: str, path: Path) -> None:
    """Queue the reading of a master."""
    jobs.add(database, JobKind.INSPECT, title=f"Reading {path.name}", task=InspectTask(path=path), master_id=master_id)


def queue_strip(database: Database, places: Places, master_id: str) -> None:
    """Queue the pictures of a master's strip, anew where its colours are read otherwise. Raises NotFound for one that left the shelf."""
    master = masters.get(database, master_id)
    if master.facts is None:
        return
    masters.set_strip(database, master_id, 0)
    task = StripTask(path=Path(master.path), facts=master.facts, folder=places.strip(master.strip_key))
    jobs.add(database, JobKind.STRIP, title=f"Pictures of {master.name}", task=task, master_id=master_id)


def queue_benchmark(database: Database) -> Job:
    """Queue measuring how fast this machine encodes; one that waits or runs already is given back."""
    under_way = jobs.open_of_kind(database, JobKind.BENCHMARK)
    title = "How fast this machine encodes"
    return under_way[0] if under_way else jobs.add(database, JobKind.BENCHMARK, title=title, task=BenchmarkTask(), master_id=None)


def queue_checks(database: Database, master_id: str, path: Path, facts: MasterFacts) -> None:
    """Queue what has not been measured of this content: its picture, its sound."""
    known = masters.survey(database, facts.content_id)
    if known.picture is None and not jobs.open_like(database, JobKind.CHECK, master_id):
        task = CheckTask(path=path, facts=facts)
        jobs.add(database, JobKind.CHECK, title=f"Checking {path.name}", task=task, master_id=master_id)
    heard = known.sound is not None and known.sound.complete
    if facts.audio and not heard and not jobs.open_like(database, JobKind.LISTEN, master_id):
        listening = ListenTask(path=path, facts=facts)
        jobs.add(database, JobKind.LISTEN, title=f"Listening to {path.name}", task=listening, master_id=master_id)
