"""The fewest files for the lanes of a master as they are now, and taking them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..core.arrival.curve import condition_as_it_is, condition_at, figure
from ..core.arrival.journey import Journey
from ..core.arrival.screens import Screen, ViewerLine
from ..core.parcel.fewest import FewestFiles, Way, fewest_files, same_picture
from ..core.parcel.parcel import Parcel
from ..core.plan.carrying import file_size
from ..core.plan.plan import Plan, VideoPlan
from ..core.plan.taking import not_taken
from ..core.trade.codecs import name_of
from ..core.values import mbps_text
from ..store.database import Database
from .known import enough_bps, known_of
from .lanes_now import LaneNow
from .now import ENCODED, PlannedParcel

MOST_RATES = 6
"""So many rates of one lane's plan are weighed at most."""


def fewest_now(database: Database, found: Sequence[LaneNow]) -> FewestFiles:
    """The fewest files for these lanes; those that cannot be packed are left out, and excerpts that differ share nothing.

    Siblings that show the same picture are other ways to serve their first, and need not be served beside it.
    """
    every = [lane for lane in found if not lane.lane.beside and not lane.now.plan.held]
    lanes = [lane for lane in every if not any(_instead(lane, other) for other in every)]
    weighing = _Weighing(database, lanes)
    options = [option for lane in every for option in weighing.ways(lane)]
    names = {lane.now.parcel.id: lane.lane.name for lane in lanes}
    sizes = {lane.now.parcel.id: float(lane.lane.figures.size.expected_bytes) for lane in lanes}
    return fewest_files(options, names, sizes, {lane.now.parcel.id: weighing.why_alone(lane) for lane in lanes})


def _instead(lane: LaneNow, first: LaneNow) -> bool:
    """Whether a lane is another way of a first one."""
    mine, theirs = lane.now, first.now
    same = (
        mine.parcel.sibling_of == theirs.parcel.id
        and mine.place.id == theirs.place.id
        and mine.excerpt == theirs.excerpt
    )
    return same and same_picture(mine.plan, theirs.plan)


def shared_parcels(files: FewestFiles, every: Sequence[PlannedParcel]) -> list[Parcel]:
    """The parcels as these files want them: a source at its rate, the others that it serves pointing at it, and whom none serves with a
    file of its own."""
    by_id = {current.parcel.id: current for current in every}
    stored = []
    for file in files.files:
        source = by_id[file.parcel_id]
        choices = source.choices
        if file.video_bitrate_bps is not None:
            choices = choices.at_rate(file.video_bitrate_bps, source.plan.picture.target_bps.value)
        stored.append(
            source.parcel.model_copy(
                update={
                    "choices": choices,
                    "served_by": None,
                    "sheet_version": source.parcel.sheet_version or source.place.sheet_version,
                }
            )
        )
        for served in file.serves:
            if served.parcel_id != file.parcel_id:
                other = by_id[served.parcel_id]
                stored.append(other.parcel.model_copy(update={"served_by": file.parcel_id}))
    told = {parcel.id for parcel in stored}
    stored += [other.parcel.model_copy(update={"served_by": None}) for name, other in by_id.items() if name not in told]
    sources = {file.parcel_id for file in files.files}
    return [parcel for parcel in stored if parcel.id not in sources or parcel.served_by is None]


@dataclass(frozen=True, slots=True)
class _Kind:
    """What decides whether and how a file arrives at a lane: its destination, its excerpt and what of the picture it shows."""

    place: tuple[str, int]
    excerpt: object
    picture: object


@dataclass(slots=True)
class _Plan:
    """A plan that a file could be made by; by kind of lane, why its file does not stand for theirs, and what of it arrives there:
    conditions and share of its rate. `own` is the same of a lane that takes its own file against the rules."""

    now: PlannedParcel
    against: dict[int, list[str]] = field(default_factory=dict)
    arrives: dict[int, tuple[tuple[float, ...], float] | None] = field(default_factory=dict)
    own: dict[int, tuple[tuple[float, ...], float] | None] = field(default_factory=dict)


class _Weighing:
    """Files that lanes could share. Lanes of one kind are weighed once, and so are equal choices for one destination."""

    def __init__(self, database: Database, lanes: Sequence[LaneNow]) -> None:
        self._database, self._lanes = database, lanes
        self._numbers: dict[_Kind, int] = {}
        self._kinds = {lane.now.parcel.id: self._number(lane.now) for lane in lanes}
        self._first = {self._kinds[lane.now.parcel.id]: lane for lane in reversed(lanes)}
        self._enough = {lane.now.parcel.id: _enough(database, lane) for lane in lanes}
        self._plans: dict[tuple[int, str], _Plan] = {}

    def _number(self, current: PlannedParcel) -> int:
        """The kind of a lane as a number, since it is looked up for every lane of every file."""
        return self._numbers.setdefault(_kind(current), len(self._numbers))

    def ways(self, one: LaneNow) -> list[Way]:
        """Files that one lane's plan could make: as it is, and at the rates that are enough for it and for those of its codec and frame."""
        current = one.now
        if current.served_by:
            return []
        return [
            self._way(one, bps, plan)
            for bps in self._rates(one)
            if not (plan := self._plan(current, bps)).now.plan.held
        ]

    def why_alone(self, one: LaneNow) -> str:
        """Why the files of the other lanes do not suit this one, as far as a rule says so."""
        kind, reasons = self._kinds[one.now.parcel.id], list[str]()
        for other in self._lanes:
            if other is not one and other.now.excerpt == one.now.excerpt:
                reasons += self._against(self._plan(other.now, None), kind)[:1]
        return max(reasons, key=reasons.count) if reasons else ""

    def _rates(self, lane: LaneNow) -> list[int | None]:
        video = lane.now.plan.video
        if video is None or lane.now.plan.copied or video.under_cap:
            return [None]
        rates = set[int]()
        for other in self._lanes:
            theirs = other.now.plan.video
            if (
                theirs
                and not other.now.plan.copied
                and theirs.codec.value == video.codec.value
                and _frame(theirs) == _frame(video)
            ):
                enough = self._enough[other.now.parcel.id]
                rates |= {theirs.target_bps.value, *([enough] if enough else [])}
        return [None, *sorted(rates - {video.target_bps.value})[:MOST_RATES]]

    def _plan(self, current: PlannedParcel, bps: int | None) -> _Plan:
        choices = (
            current.choices if bps is None else current.choices.at_rate(bps, current.plan.picture.target_bps.value)
        )
        key = self._number(current), choices.model_dump_json()
        if key not in self._plans:
            self._plans[key] = _Plan(current if bps is None else current.choosing(self._database, choices))
        return self._plans[key]

    def _way(self, lane: LaneNow, bps: int | None, plan: _Plan) -> Way:
        arrives, share = dict[str, tuple[float, ...]](), 1.0
        for other in self._lanes:
            kind, local = self._kinds[other.now.parcel.id], other.now.parcel.id == lane.now.parcel.id
            arrival = self._own(plan, other.now) if local else self._foreign(plan, kind)
            if arrival is None:
                continue
            arrives[other.now.parcel.id], used = arrival
            share = used if local else share
        return Way(
            lane=lane.now.parcel.id,
            words=_words(plan.now.plan),
            video_bitrate_bps=bps,
            arrives=arrives,
            size_bytes=file_size(plan.now.plan, achieved_share=share).expected_bytes,
        )

    def _own(self, plan: _Plan, current: PlannedParcel) -> tuple[tuple[float, ...], float] | None:
        """What arrives of a file at its own lane, which takes it whatever the rules say of others'."""
        kind = self._number(current)
        if (arrival := self._foreign(plan, kind)) is not None:
            return arrival
        if kind not in plan.own:
            plan.own[kind] = _arrives(self._database, plan.now.plan, current)
        return plan.own[kind]

    def _against(self, plan: _Plan, kind: int) -> list[str]:
        if kind not in plan.against:
            other = self._first[kind].now if kind in self._first else plan.now
            plan.against[kind] = _against(plan.now.plan, other)
        return plan.against[kind]

    def _foreign(self, plan: _Plan, kind: int) -> tuple[tuple[float, ...], float] | None:
        if kind not in plan.arrives:
            other = self._first[kind].now if kind in self._first else plan.now
            taken = other.excerpt == plan.now.excerpt and not self._against(plan, kind)
            plan.arrives[kind] = _arrives(self._database, plan.now.plan, other) if taken else None
        return plan.arrives[kind]


def _kind(current: PlannedParcel) -> _Kind:
    framing = current.plan.video.framing.value if current.plan.video else None
    picture = (framing.crop, framing.width, framing.height) if framing else None
    return _Kind(place=(current.place.id, current.place.sheet_version), excerpt=current.excerpt, picture=picture)


def _enough(database: Database, lane: LaneNow) -> int | None:
    journey = lane.now.journey
    return enough_bps(database, lane.now.plan, journey) if journey and not lane.now.plan.copied else None


def _frame(video: VideoPlan) -> tuple[int, int]:
    return video.framing.value.width, video.framing.value.height


def _arrives(database: Database, plan: Plan, other: PlannedParcel) -> tuple[tuple[float, ...], float] | None:
    """What arrives of a file at another parcel's destination on every screen with a good line, and the share of its rate that it uses;
    None where that was not tested."""
    if plan.video is None:
        return (), 1.0
    if plan.copied:
        if not other.place.placement.re_encodes:
            return (100.0,) * len(Screen), 1.0
        encoded = other.choosing(database, ENCODED)
        forecast = known_of(database, encoded.plan, encoded.journey).forecast
        conditions = [condition_as_it_is(forecast, screen=screen, line=ViewerLine.GOOD) for screen in Screen]
    else:
        forecast = known_of(database, plan, Journey(plan, other.place)).forecast
        bps = plan.picture.target_bps.value
        conditions = [condition_at(bps, forecast, screen=screen, line=ViewerLine.GOOD) for screen in Screen]
    given = [told for condition in conditions if (told := figure(condition))]
    if len(given) < len(Screen):
        return None
    used = (
        forecast.achieved[forecast.rates.index(plan.picture.target_bps.value)]
        if plan.picture.target_bps.value in forecast.rates
        else None
    )
    share = used / plan.picture.target_bps.value if used and not plan.copied else 1.0
    return tuple(condition.condition for condition in given), share


def _against(plan: Plan, other: PlannedParcel) -> list[str]:
    """Why the file of a plan does not stand for another parcel's: a rule of its sheet, or another picture than is wanted there."""
    rules = not_taken(plan, other.place)
    return rules or ([] if same_picture(plan, other.plan) else ["its shape or its crop is another than is wanted here"])


def _words(plan: Plan) -> str:
    if plan.copied:
        return "copy of the master as it is"
    if plan.video is None:
        return f"file of {name_of(plan.sound.codec.value)} sound"
    framing, video = plan.video.framing.value, plan.video
    frame = f"{framing.width}×{framing.height}"
    return f"{frame} {name_of(video.codec.value)} file of {mbps_text(video.target_bps.value)}"
