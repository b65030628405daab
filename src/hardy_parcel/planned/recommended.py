"""What we would send to a lane's destination, of all that was tested for it: its own way, its siblings, its alternatives."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.parcel.fewest import same_picture
from ..core.parcel.recommending import KnownWay, Recommendation, original_of, recommend
from ..core.plan.choices import Method
from ..core.trade.codecs import name_of
from ..store import parcels, settings
from ..store.database import Database
from .besides import besides
from .known import known_of
from .now import PlannedParcel, planned_on


def recommended(database: Database, now: PlannedParcel, every: Sequence[PlannedParcel]) -> Recommendation | None:
    """What we would send there; None for other ways of a lane, for shared files, for sound alone, and before anything was tested."""
    if now.parcel.sibling_of or now.served_by or now.encoded.video is None or now.encoded.held:
        return None
    encoded = now if not now.plan.copied else now.choosing(database, now.choices.model_copy(update={"method": Method.ENCODE}))
    siblings = [
        other for other in every
        if other.parcel.sibling_of == now.parcel.id and other.place.id == now.place.id and other.excerpt == now.excerpt
        and other.plan.video and not other.plan.copied and same_picture(encoded.plan, other.plan)
    ]
    others = [
        *(_way(database, other, other.parcel.name or _words(other)) for other in siblings),
        *(
            KnownWay(parcel_id=now.parcel.id, words=one.what_if.words, plan=one.now.plan, known=one.known.forecast)
            for one in besides(database, encoded) if same_picture(encoded.plan, one.now.plan)
        ),
    ]
    return recommend(
        now.plan, _way(database, encoded, ""), others, now.place,
        original=original_of(now.facts, now.place, encoded.plan, now.master.stamps, now.excerpt),
        aim=settings.aims(database).get(now.place.id, settings.USUAL_AIM),
    )


def siblings_of(database: Database, now: PlannedParcel) -> list[PlannedParcel]:
    """The lanes that were made from a parcel, planned."""
    found = [parcel for parcel in parcels.of_master(database, now.master.id) if parcel.sibling_of == now.parcel.id]
    return [planned_on(database, parcel, now.master, now.facts) for parcel in found]


def _way(database: Database, now: PlannedParcel, words: str) -> KnownWay:
    known = known_of(database, now.plan, now.journey)
    return KnownWay(parcel_id=now.parcel.id, words=words, plan=now.plan, known=known.forecast)


def _words(now: PlannedParcel) -> str:
    framing = now.plan.picture.framing.value
    return f"{name_of(now.plan.picture.codec.value)} {framing.width}×{framing.height}"
