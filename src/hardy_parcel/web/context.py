"""What every router needs: the database, the places, and what happens."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request

from ..store.database import Database
from ..store.places import Places
from .happenings import Happenings
from .picture_making import PictureMaking
from .steppers import Steppers


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """The database and the places of a running service, what happens in it, and what it keeps open and draws in its own event loop."""

    database: Database
    places: Places
    happenings: Happenings
    steppers: Steppers = field(default_factory=Steppers)
    pictures: PictureMaking = field(default_factory=PictureMaking)


def _context(request: Request) -> Context:
    found: Context = request.app.state.context
    return found


Ctx = Annotated[Context, Depends(_context)]
