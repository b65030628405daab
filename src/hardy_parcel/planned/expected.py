"""What is forecast of a packed file when it is sent, to be held against what comes back."""

from __future__ import annotations

from ..core.arrival.forecast import Forecast
from ..core.arrival.journey import Journey
from ..core.arrival.returned import ExpectedView, expected_views
from ..core.errors import NotFound
from ..core.plan.plan import Plan
from ..core.plan.planning import make_plan
from ..core.sheets.sheet import Destination
from ..store import masters, results
from ..store.database import Database
from .known import known_of, tested
from .now import ENCODED


def expected_now(database: Database, receipt_id: str, plan: Plan, place: Destination) -> tuple[ExpectedView, ...]:
    """What is known now of every view of a packed plan; nothing for sound alone, or where its master has left the shelf."""
    journey = _journey(database, receipt_id, plan, place)
    return _views(known_of(database, plan, journey).forecast, plan) if journey else ()


def expected_by_tests(database: Database, receipt_id: str, plan: Plan, place: Destination) -> tuple[ExpectedView, ...]:
    """The same by everything that was tested until now, and by nothing that came back."""
    journey = _journey(database, receipt_id, plan, place)
    return _views(tested(database, plan, journey), plan) if journey else ()


def _views(forecast: Forecast, plan: Plan) -> tuple[ExpectedView, ...]:
    return expected_views(forecast, 0 if plan.copied else plan.picture.target_bps.value, perfect=plan.copied)


def _journey(database: Database, receipt_id: str, plan: Plan, placement: Destination) -> Journey | None:
    """The way of a packed picture, or of a perfect upload where the master was sent as it is."""
    if plan.video is None:
        return None
    if not plan.copied:
        return Journey(plan, placement)
    try:
        facts = masters.get(database, results.receipt(database, receipt_id).master_id).facts
    except NotFound:
        return None
    return Journey(make_plan(facts, placement, ENCODED, plan.excerpt), placement) if facts else None
