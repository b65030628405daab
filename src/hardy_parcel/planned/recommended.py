"""What we would send to a lane's destination, of all that was tested for it: its own way, its siblings, its alternatives."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..core.parcel.fewest import same_picture
from ..core.parcel.recommending import Aim, EncodeOption, Recommendation, original_of, recommend
from ..core.plan.choices import Method
from ..core.trade.codecs import name_of
from ..store import parcels, settings
from ..store.database import Database
from .besides import besides
from .known import known_of
from .now import PlannedParcel, planned_on


def recommended(
    database: Database, current: PlannedParcel, every: Sequence[PlannedParcel], aims: Mapping[str, Aim]
) -> Recommendation | None:
    """What we would send there; None for other ways of a lane, for shared files, for sound alone, and before anything was tested."""
    if current.parcel.sibling_of or current.served_by or current.encoded.video is None or current.encoded.held:
        return None
    encoded = (
        current
        if not current.plan.copied
        else current.choosing(database, current.choices.model_copy(update={"method": Method.ENCODE}))
    )
    siblings = [
        other
        for other in every
        if other.parcel.sibling_of == current.parcel.id
        and other.place.id == current.place.id
        and other.excerpt == current.excerpt
        and other.plan.video
        and not other.plan.copied
        and same_picture(encoded.plan, other.plan)
    ]
    others = [
        *(_option(database, other, other.parcel.name or _words(other)) for other in siblings),
        *(
            EncodeOption(
                parcel_id=current.parcel.id,
                words=alternative.what_if.words,
                plan=alternative.now.plan,
                forecast=alternative.known.forecast,
            )
            for alternative in besides(database, encoded)
            if same_picture(encoded.plan, alternative.now.plan)
        ),
    ]
    return recommend(
        current.plan,
        _option(database, encoded, ""),
        others,
        current.place,
        original=original_of(current.facts, current.place, encoded.plan, current.master.stamps, current.excerpt),
        aim=aims.get(current.place.id, settings.USUAL_AIM),
    )


def siblings_of(database: Database, current: PlannedParcel) -> list[PlannedParcel]:
    """The lanes that were made from a parcel, planned."""
    siblings = [
        parcel for parcel in parcels.of_master(database, current.master.id) if parcel.sibling_of == current.parcel.id
    ]
    return [planned_on(database, parcel, current.master, current.facts) for parcel in siblings]


def _option(database: Database, current: PlannedParcel, words: str) -> EncodeOption:
    forecast = known_of(database, current.plan, current.journey).forecast
    return EncodeOption(parcel_id=current.parcel.id, words=words, plan=current.plan, forecast=forecast)


def _words(current: PlannedParcel) -> str:
    framing = current.plan.picture.framing.value
    return f"{name_of(current.plan.picture.codec.value)} {framing.width}×{framing.height}"
