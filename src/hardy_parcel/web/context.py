"""What every router needs: the database and the places."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from fastapi import Depends, Request

from ..core.errors import BadInput
from ..core.master.facts import MasterFacts
from ..store import masters
from ..store.database import Database
from ..store.masters import Master, MasterState
from ..store.places import Places


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """The database and the places of a running service."""

    database: Database
    places: Places

    def readable(self, master_id: str) -> tuple[Master, MasterFacts]:
        """A master whose facts are known and whose file is there; raises BadInput otherwise."""
        master = masters.get(self.database, master_id)
        if master.state is MasterState.UNREADABLE and master.problem:
            raise BadInput(master.problem.what, master.problem.todo, code=master.problem.code)
        if master.facts is None:
            raise BadInput(f"{master.name} is still being read.", "Wait a moment.", code="still_reading")
        if master.state is MasterState.GONE or not Path(master.path).exists():
            raise BadInput(f"{master.name} is not there any more.", "Put it back, or open it again.", code="gone")
        return master, master.facts


def _context(request: Request) -> Context:
    return request.app.state.context


Ctx = Annotated[Context, Depends(_context)]
