"""What a child process may take: memory, priority, where its temporary files go, and which files it can reach at all."""

from __future__ import annotations

import logging
import os
import resource
import sys
import tempfile
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from urllib.parse import urlsplit

from pydantic import BaseModel

from .sandbox import Doors, shut, system_reads

READING_MEMORY, WORKING_MEMORY = 6 << 30, 16 << 30
"""Address space for one child: reading a file of unknown origin, and encoding large pictures with look-ahead."""
READING = frozenset(
    {"inspect", "strip", "check", "listen", "look", "film_look", "step", "compare", "handoff", "arrive", "returned"}
)
IN_BACKGROUND = frozenset({"check", "listen", "arrive", "returned"})
WRITTEN = frozenset({"folder", "target"})
"""Names of the fields of a task that say where it writes: a folder, or a file whose folder that is. All other paths are read."""
log = logging.getLogger(__name__)


def confine(task: BaseModel, scratch: Path) -> None:
    """Limit this process for one task: memory, no core dumps, a lower priority for what is long, its own temporary files, and no door open
    that the task does not need. To be called before any thread is started."""
    kind = str(getattr(task, "kind", ""))
    memory = READING_MEMORY if kind in READING else WORKING_MEMORY
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    if kind in IN_BACKGROUND:
        _give_way(6)
    elif kind not in READING and not getattr(task, "quick", False):
        _give_way(5)
    os.environ["TMPDIR"] = tempfile.tempdir = str(scratch)
    try:
        shut(doors_of(task, scratch))
    except OSError:
        # a kernel that offers it and refuses it all the same, as in some containers: the limits above still hold
        log.warning("this child could not be confined", exc_info=True)


def _give_way(steps: int) -> None:
    """Lower the priority of this process, and of its session: Linux may share processors by sessions, and each child has its own."""
    os.nice(steps)
    with suppress(OSError):
        Path("/proc/self/autogroup").write_text(str(steps))


def doors_of(task: BaseModel, scratch: Path) -> Doors:
    """What a task needs: its files to read, its folders to write, and of one that sends the port it sends to."""
    reads, writes = list[Path](), [scratch]
    for name, path in _paths(task):
        if name == "folder":
            if _is_ours(task):
                path.mkdir(parents=True, exist_ok=True)
            writes.append(path)
        elif name in WRITTEN:
            writes.append(path.parent)
        else:
            reads.append(path)
    address = urlsplit(str(getattr(task, "address", "") or ""))
    package = Path(__file__).parents[1]
    return Doors(
        reads=(*(path.resolve() for path in reads), *system_reads((sys.prefix, sys.base_prefix, str(package)))),
        writes=tuple(path.resolve() for path in writes),
        port=address.port,
    )


def paths_of(task: BaseModel) -> tuple[Path, ...]:
    """Every path that a task names: a child that was confined for one task can only do others of the same paths."""
    return tuple(path for _, path in _paths(task))


def _is_ours(task: BaseModel) -> bool:
    """Whether a task's folder is one of our cache, which it makes; a creator's own folder is there already or is missed."""
    return str(getattr(task, "kind", "")) != "pack"


def _paths(value: object, name: str = "") -> Iterator[tuple[str, Path]]:
    """Every path in a task with the name of its field."""
    if isinstance(value, Path):
        yield name, value
    elif isinstance(value, BaseModel):
        for field in type(value).model_fields:
            yield from _paths(getattr(value, field), field)
    elif isinstance(value, (tuple, list)):
        for one in value:
            yield from _paths(one, name)
