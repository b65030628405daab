"""What every router needs: the database, the places, and what happens."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from ..store.database import Database
from ..store.places import Places
from .happenings import Happenings


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """The database and the places of a running service, and what happens in it."""

    database: Database
    places: Places
    happenings: Happenings


def _context(request: Request) -> Context:
    found: Context = request.app.state.context
    return found


Ctx = Annotated[Context, Depends(_context)]
