"""What a child process may take: memory, priority, where its temporary files go."""

from __future__ import annotations

import os
import resource
import tempfile
from pathlib import Path

READING_MEMORY, WORKING_MEMORY = 6 << 30, 16 << 30
"""Address space for one child: reading a file of unknown origin, and encoding large pictures with look-ahead."""
READING = frozenset({"inspect", "strip", "check", "listen", "look", "film_look", "step", "compare", "handoff", "arrive", "returned"})
IN_BACKGROUND = frozenset({"check", "listen", "arrive", "returned"})


def confine(kind: str, scratch: Path) -> None:
    """Limit this process for one kind of work: memory, no core dumps, a lower priority for what is long, its own temporary files."""
    memory = READING_MEMORY if kind in READING else WORKING_MEMORY
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    if kind not in READING:
        os.nice(5)
    elif kind in IN_BACKGROUND:
        os.nice(2)
    os.environ["TMPDIR"] = tempfile.tempdir = str(scratch)
