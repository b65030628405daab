"""Look: the same picture at every station, of one parcel or of two, and one crop of it at several rates, on one screen's raster."""

from __future__ import annotations

import asyncio
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi import Path as PathParam
from fastapi.responses import FileResponse
from pydantic import BaseModel

from ..core.arrival.condition import impairment_words
from ..core.arrival.curve import usual_rates
from ..core.arrival.journey import digest
from ..core.arrival.ladder_of_rates import CROP, RateLadder, rate_ladder, rates_of_ladder
from ..core.arrival.looked import SufferingMap
from ..core.arrival.pairing import PairedPicture, most_telling, same_shape
from ..core.arrival.rehearsal import Rehearsal
from ..core.arrival.screens import Screen, ViewerLine, picture_raster
from ..core.errors import BadChoice, NotFound
from ..core.parcel.lane import Apart, Lane, PairSentence, apart, pair_sentences
from ..core.parcel.parcel import difference
from ..core.plan.carrying import Line
from ..core.values import Ratio
from ..planned.lanes_now import first_of, lane_now
from ..planned.looking import KeptRehearsal, kept_at, kept_rehearsals, look_task, own_rehearsal, same_pictures
from ..planned.now import PlannedParcel, planned, planned_lanes
from ..processes.messages import LadderMade, LadderTask, LookTask
from ..store import jobs, results, settings
from ..store.files import mark_used
from ..store.jobs import Job, JobKind
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["look"])
Number = Annotated[int, PathParam(ge=0, lt=10_000_000)]
PicturesKey = Annotated[str, PathParam(pattern="^[0-9a-f]{20}$")]
"""Everything that a picture depends on: the address of another one is another, so that a browser may keep each."""
Share = Annotated[float, Query(ge=0, le=1, allow_inf_nan=False)]


class LookView(BaseModel):
    """Every rehearsal of this parcel that can be looked at, with its measured pictures."""

    rehearsals: list[Rehearsal]
    waiting_rates: list[int]


class SuffersView(BaseModel):
    """Where a picture suffers: condition by blocks, rows of columns, the row and column of the worst, whether all are alike, in words."""

    rows: tuple[tuple[float, ...], ...]
    worst: tuple[int, int]
    worst_words: str
    even: bool
    sentence: str

    @classmethod
    def of(cls, found: SufferingMap) -> SuffersView:
        row, column = found.worst
        words = impairment_words(found.rows[row][column])
        return cls(rows=found.rows, worst=found.worst, worst_words=words, even=found.even, sentence=found.sentence)


@router.get("/parcels/{parcel_id}/look")
def look(parcel_id: str, ctx: Ctx) -> LookView:
    """What there is to look at."""
    now = planned(ctx.database, parcel_id)
    journey = now.journey
    found = results.rehearsals(ctx.database, journey) if journey and not now.plan.copied else []
    done = {r.target_bps for r in found}
    usual = usual_rates(now.plan) if journey and not now.plan.copied else []
    return LookView(rehearsals=found, waiting_rates=[rate for rate in usual if rate not in done])


@router.get("/parcels/{parcel_id}/look/{target_bps}/{pictures_key}/{index}/{screen}/{line}/{station}.png", response_class=FileResponse)
async def picture(
    parcel_id: str,
    target_bps: Annotated[int, PathParam(ge=0, le=400_000_000)],
    pictures_key: PicturesKey,
    index: Number,
    screen: Screen,
    line: ViewerLine,
    station: Literal["master", "packed", "arrived"],
    ctx: Ctx,
) -> FileResponse:
    """One rehearsed picture at one station, at the raster of a screen; made on first request. A rate of 0 is the master as it is."""
    task = await asyncio.to_thread(_task, ctx, parcel_id, target_bps, pictures_key, index, screen, line)
    path = task.folder / f"{station}.png"
    if not path.is_file():
        await ctx.pictures.make(task)
    if not path.is_file():
        raise NotFound("There is no such picture.", "Choose another station.")
    return FileResponse(path, media_type="image/png", headers={"cache-control": "private, max-age=86400"})


@router.get("/parcels/{parcel_id}/look/{target_bps}/{pictures_key}/{index}/{screen}/{line}/{station}/map")
async def suffers(
    parcel_id: str,
    target_bps: Annotated[int, PathParam(ge=0, le=400_000_000)],
    pictures_key: PicturesKey,
    index: Number,
    screen: Screen,
    line: ViewerLine,
    station: Literal["packed", "arrived"],
    ctx: Ctx,
) -> SuffersView:
    """Where on one rehearsed picture it suffers, packed or on arrival."""
    task = await asyncio.to_thread(_task, ctx, parcel_id, target_bps, pictures_key, index, screen, line)
    path = task.folder / f"{station}.json"
    if not path.is_file():
        await ctx.pictures.make(task.model_copy(update={"mapped": True}))
    if not path.is_file():  # those who asked for the pictures alone were first
        await ctx.pictures.make(task.model_copy(update={"mapped": True}))
    return SuffersView.of(SufferingMap.model_validate_json(await asyncio.to_thread(path.read_text)))


def _task(
    ctx: Context, parcel_id: str, target_bps: int, pictures_key: str, index: int, screen: Screen, line: ViewerLine
) -> LookTask:
    now = planned(ctx.database, parcel_id)
    kept = kept_at(ctx.database, now, target_bps)
    if kept.key != pictures_key:
        raise NotFound("These pictures are of earlier settings.", "Load the page again.", code="other_pictures")
    ctx.places.check_links([now.path])
    task = look_task(ctx.places, now, kept, index, screen, line)
    mark_used(task.folder.parent, *kept.folders)
    return task


class PairSide(BaseModel):
    """One of two lanes: what is packed, its own rate, the rehearsed rate that is shown (bit/s; 0 where the master is sent as it is),
    None before it was rehearsed, the key of its pictures, and the raster of its picture by screen (px). `refused` says why it cannot be
    rehearsed."""

    parcel_id: str
    name: str
    packed_phrase: str
    own_bps: int | None
    shown_bps: int | None
    pictures_key: str
    rasters: dict[Screen, tuple[int, int]]
    rehearsing: Job | None
    refused: str


class PairView(BaseModel):
    """Two lanes of one master: how the first differs from the second, and pictures that both can show, which of them tells most."""

    left: PairSide
    right: PairSide
    apart: Apart
    sentences: tuple[PairSentence, ...]
    pictures: tuple[PairedPicture, ...]
    telling: int
    same_shape: bool


@router.get("/masters/{master_id}/pair")
def pair(
    master_id: str, left: Annotated[str, Query(max_length=40)], right: Annotated[str, Query(max_length=40)], ctx: Ctx
) -> PairView:
    """Two lanes on the same pictures. Lanes of different masters, or without a picture, are refused."""
    every = planned_lanes(ctx.database, master_id)
    first, second = (_lane_of(every, parcel_id) for parcel_id in (left, right))
    kept = [own_rehearsal(ctx.database, now) for now in (first, second)]
    pictures = same_pictures(first, kept[0], second, kept[1]) if kept[0] and kept[1] else ()
    line = settings.load(ctx.database).line
    lanes = [_told(ctx, every, now, line) for now in (first, second)]
    sides = [_side(ctx, now, one, lane) for now, one, lane in zip((first, second), kept, lanes, strict=True)]
    return PairView(
        left=sides[0], right=sides[1], apart=apart(*lanes), sentences=pair_sentences(*lanes), pictures=pictures,
        telling=most_telling(pictures), same_shape=all(same_shape(sides[0].rasters[screen], sides[1].rasters[screen]) for screen in Screen),
    )


def _lane_of(every: list[PlannedParcel], parcel_id: str) -> PlannedParcel:
    now = next((one for one in every if one.parcel.id == parcel_id), None)
    if now is None:
        raise NotFound("There is no such lane of this master.", "Choose two of its lanes.")
    if now.plan.video is None:
        raise BadChoice(f"{now.place.full_name} takes no picture, so there is none to see.", "Choose another lane.", code="no_picture")
    return now


def _told(ctx: Context, every: list[PlannedParcel], now: PlannedParcel, line: Line) -> Lane:
    first = first_of(every, now)
    differs = difference(now.parcel, now.plan, first.parcel, first.plan) if first else ""
    return lane_now(ctx.database, now, line, differs=differs).lane


def _side(ctx: Context, now: PlannedParcel, kept: KeptRehearsal | None, lane: Lane) -> PairSide:
    video, refused = now.encoded.picture, ""
    if now.served_by:
        refused = f"It goes out in the file of {now.plan.destination_name}."
    elif now.plan.held:
        refused = now.plan.held[0].sentence
    return PairSide(
        parcel_id=now.parcel.id, name=lane.name, packed_phrase=lane.packed_phrase, own_bps=lane.target_bps,
        shown_bps=kept.target_bps if kept else None, pictures_key=kept.key if kept else "", refused=refused,
        rasters={screen: picture_raster(screen, video.framing.value).size for screen in Screen},
        rehearsing=jobs.open_like(ctx.database, JobKind.REHEARSE, now.master.id, parcel_id=now.parcel.id),
    )


class LadderView(BaseModel):
    """One crop of a picture at several rates: where it lies on the raster (px), the picture's place in the reel and its time in the
    master (s). `pictures` is the address of its pictures: `<bit/s>.png`, `master.png`, and `whole.png` of the whole master."""

    ladder: RateLadder
    index: int
    master_s: Ratio
    raster: tuple[int, int]
    crop: tuple[int, int, int, int]
    pictures: str


@router.get("/parcels/{parcel_id}/ladder")
async def ladder(
    parcel_id: str, screen: Screen, line: ViewerLine, ctx: Ctx,
    index: Annotated[int | None, Query(ge=0, lt=10_000_000)] = None, x: Share | None = None, y: Share | None = None,
) -> LadderView:
    """One crop at up to five rehearsed rates, the first visible step marked.

    Without a picture it is the one that suffers most at the lowest rate, and without a place (shares of width and height) the part of
    it on which the rates differ most.
    """
    task = await asyncio.to_thread(_ladder_task, ctx, parcel_id, screen, line, index, None if x is None or y is None else (x, y))
    about = task.folder / "ladder.json"
    if not about.is_file():
        await ctx.pictures.make(task)
    made = LadderMade.model_validate_json(await asyncio.to_thread(about.read_text))
    return LadderView(
        ladder=rate_ladder({one.target_bps: one.condition for one in made.seen}), index=task.index, master_s=made.master_s,
        raster=made.raster, crop=(made.x, made.y, made.width, made.height),
        pictures=f"/api/ladders/{task.folder.parent.name}/{task.folder.name}",
    )


Digest = Annotated[str, PathParam(pattern="^[0-9a-f]{20}$")]


@router.get("/ladders/{key}/{crop}/{name}.png", response_class=FileResponse)
def ladder_picture(
    key: Digest, crop: Digest, name: Annotated[str, PathParam(pattern="^(master|whole|[0-9]{1,9})$")], ctx: Ctx
) -> FileResponse:
    """One picture of a ladder that was made."""
    path = ctx.places.looks / key / crop / f"{name}.png"
    if not path.is_file():
        raise NotFound("There is no such picture.", "Ask for the ladder again.")
    return FileResponse(path, media_type="image/png", headers={"cache-control": "private, max-age=86400"})


def _ladder_task(
    ctx: Context, parcel_id: str, screen: Screen, line: ViewerLine, index: int | None, at: tuple[float, float] | None
) -> LadderTask:
    now = planned(ctx.database, parcel_id)
    if now.plan.video is None or now.plan.copied:
        raise BadChoice("Nothing is encoded here, so there are no rates to set beside each other.", "Choose another lane.", code="no_rates")
    ctx.places.check_links([now.path])
    kept = {one.target_bps: one for one in kept_rehearsals(ctx.database, now)}
    if not kept:
        raise NotFound("Nothing was rehearsed here yet.", "Rehearse it on the bench first.")
    rates = rates_of_ladder(list(kept), now.plan.picture.target_bps.value)
    lowest = kept[rates[-1]]
    picture = min(lowest.measured, key=lambda place: lowest.measured[place], default=0) if index is None else index
    crop = digest(picture, screen, line, at, CROP, *(kept[rate].key for rate in rates))
    mark_used(ctx.places.looks / lowest.key, *(folder for rate in rates for folder in kept[rate].folders))
    return LadderTask(
        path=now.path, facts=now.facts, plan=now.plan, destination=now.place, reel=lowest.reel,
        rungs=tuple(kept[rate].files for rate in rates), index=picture, at=at, screen=screen, line=line,
        folder=ctx.places.looks / lowest.key / crop,
    )
