"""What is forecast of a packed file when it is sent, to be held against what comes back."""

from __future__ import annotations

from ..core.arrival.journey import Journey
from ..core.arrival.returned import ExpectedView, expected_views
from ..core.errors import NotFound
from ..core.plan.plan import Plan
from ..core.plan.planning import make_plan
from ..core.sheets.sheet import Destination
from ..store import masters, results
from ..store.database import Database
from .known import known_of
from .now import ENCODED


def expected_now(database: Database, receipt_id: str, plan: Plan, place: Destination) -> tuple[ExpectedView, ...]:
    """What is known now of every view of a packed plan; nothing for sound alone, or where its master has left the shelf."""
    if plan.video is None:
        return ()
    if not plan.copied:
        known = known_of(database, plan, Journey(plan, place)).forecast
        return expected_views(known, plan.picture.target_bps.value, perfect=False)
    try:
        facts = masters.get(database, results.receipt(database, receipt_id).master_id).facts
    except NotFound:
        return ()
    if facts is None:
        return ()
    encoded = make_plan(facts, place, ENCODED, plan.excerpt)
    return expected_views(known_of(database, plan, Journey(encoded, place)).forecast, 0, perfect=True)
