"""Lanes: every parcel of a master beside the others."""

from __future__ import annotations

from datetime import date
from functools import partial
from pathlib import PurePath
from typing import Annotated, Literal, NamedTuple
from urllib.parse import quote

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from ..core.errors import BadChoice
from ..core.parcel.fewest import FewestFiles
from ..core.parcel.going_up import GoingUp
from ..core.parcel.lane import Apart, Lane
from ..core.parcel.lanes import LanesSentence, lanes_sentences
from ..core.parcel.recommending import Aim
from ..core.parcel.shape_table import ShapeTable, shape_question, shape_table
from ..core.plan.naming import portable_stem
from ..planned.changing_lanes import parcels_state, with_revisions
from ..planned.lanes_now import apart_of, lanes_now
from ..planned.now import PlannedParcel, lanes_of, planned_lanes, planned_on, readable
from ..planned.probes import lacks_probes, probing
from ..planned.sharing import fewest_now, shared_parcels
from ..processes.client import in_child
from ..report.assembling import report_of
from ..report.writing import as_csv, as_html, as_json, page_policy
from ..store import jobs, parcels, results, settings
from ..store.database import Changed
from ..store.jobs import Job, JobKind
from .context import Context, Ctx
from .picture_making import PICTURE_LIMIT_S
from .recipe_routes import Applied
from .telling import Telling

router = APIRouter(prefix="/api", tags=["lanes"])


class PackedLast(BaseModel):
    """When a parcel was packed last (s since 1970), by which job; and whether that was the plan that it has now."""

    job_id: str
    made_at: float
    as_now: bool


class LaneView(BaseModel):
    """A lane with the work on it under way; `served_by` names the lane whose file serves this one too. `lacks_probes` says
    that trying moments would tell more of what arrives; `brings` is of a larger frame beside a lane, `aim` what is wanted of its
    destination."""

    lane: Lane
    brings: tuple[GoingUp, ...] = ()
    served_by: str | None = None
    apart: Apart | None = None
    rehearsing: Job | None = None
    probing: Job | None = None
    lacks_probes: bool = False
    packing: Job | None = None
    packed: PackedLast | None = None
    aim: Aim = Aim.SAFE


class LanesView(BaseModel):
    """The lanes of a master in their order, the same by destination and shape, and the sentence on top for every screen and line.
    `shape_question` asks once how frames of another shape are to be filled; empty where that needs no answer."""

    lanes: list[LaneView]
    table: ShapeTable
    sentences: tuple[LanesSentence, ...]
    shape_question: str


@router.get("/masters/{master_id}/lanes", response_model=LanesView)
def lanes(master_id: str, ctx: Ctx, against: Annotated[str | None, Query(max_length=40)] = None) -> Response:
    """Every parcel of this master, and under the first of a destination the master as it is where that is taken.

    Each tells how it differs from the parcel `against`, where there is such a one, else a sibling from its first. What was told is told
    again for as long as nothing that is shown has changed, with how far the work on it is by now.
    """

    def tell() -> ToldLanes:
        content_id = readable(ctx.database, master_id)[1].content_id
        view = view_of_lanes(master_id, ctx, against)
        return ToldLanes(content_id, view, view.model_dump_json().encode())

    def shows(change: Changed, told: ToldLanes) -> bool:
        mine = {
            "master": master_id,
            "lanes": master_id,
            "queue": master_id,
            "content": told.content_id,
            "measurement": told.content_id,
        }
        return change.kind not in ELSEWHERE and change.id in ("", mine.get(change.kind, change.id))

    told = _told.of(ctx.database, (date.today(), master_id, against), tell, shows)
    text = told.text
    if any(one.rehearsing or one.probing or one.packing for one in told.view.lanes):
        work = {job.id: job for job in jobs.open_of(ctx.database, master_id)}
        text = _as_far_as_it_is(told.view, work).model_dump_json().encode()
    return Response(text, media_type="application/json")


ELSEWHERE = ("job", "parcel", "strip")
"""Kinds of changes that come with others, of the queue and of lanes, or are not shown here; a job alone only changes how it stands, which
is asked for."""


class ToldLanes(NamedTuple):
    """Lanes of a film with this content, and the same as JSON."""

    content_id: str
    view: LanesView
    text: bytes


_told: Telling[ToldLanes] = Telling(64)


def _as_far_as_it_is(view: LanesView, work: dict[str, Job]) -> LanesView:
    """The same lanes with the work on them as it is by now."""

    def now(job: Job | None) -> Job | None:
        return job and work.get(job.id, job)

    return view.model_copy(
        update={
            "lanes": [
                one.model_copy(
                    update={"rehearsing": now(one.rehearsing), "probing": now(one.probing), "packing": now(one.packing)}
                )
                for one in view.lanes
            ]
        }
    )


def view_of_lanes(master_id: str, ctx: Context, against: str | None) -> LanesView:
    """The lanes of a master as they are now, put together anew, all of one state of what is stored."""
    lanes_of(ctx.database, master_id)  # a film's first lanes are made before the state is held that shows them
    with ctx.database.snapshot():
        return _lanes_together(master_id, ctx, against)


def _lanes_together(master_id: str, ctx: Context, against: str | None) -> LanesView:
    kept, every, aims = settings.load(ctx.database), planned_lanes(ctx.database, master_id), settings.aims(ctx.database)
    work = _Work(ctx, master_id)
    trying = {
        now.parcel.id: (probing(ctx.database, now), kept.probing and lacks_probes(ctx.database, now)) for now in every
    }
    found = lanes_now(ctx.database, every, kept.line)
    differ = apart_of([one.lane for one in found], against)
    packed = results.packed_last(ctx.database, master_id)
    views = []
    for one in found:
        name = one.lane.parcel.id
        if one.lane.beside:
            views.append(LaneView(lane=one.lane, brings=one.brings))
            continue
        last = packed.get(one.now.served_by.id if one.now.served_by else name)
        views.append(
            LaneView(
                lane=one.lane,
                served_by=one.now.served_by
                and next(
                    (
                        other.lane.name
                        for other in found
                        if one.now.served_by and other.now.parcel.id == one.now.served_by.id
                    ),
                    None,
                ),
                apart=differ.get(name),
                probing=trying[name][0],
                lacks_probes=trying[name][1],
                rehearsing=work.of(name, JobKind.REHEARSE),
                packing=work.of(name, JobKind.PACK),
                packed=last
                and PackedLast(job_id=last.job_id, made_at=last.made_at, as_now=last.plan_key == one.lane.plan_key),
                aim=aims.get(one.now.place.id, settings.USUAL_AIM),
            )
        )
    own = [one.lane for one in found if not one.lane.beside]
    return LanesView(
        lanes=views,
        table=shape_table(own, [now.place for now in every]),
        sentences=lanes_sentences(own),
        shape_question=shape_question(own, every[0].facts) if every else "",
    )


@router.get(
    "/masters/{master_id}/report.{form}",
    responses={200: {"content": {"text/html": {}, "text/csv": {}, "application/json": {}}}},
)
def report(
    master_id: str,
    form: Literal["html", "csv", "json"],
    ctx: Ctx,
    against: Annotated[str | None, Query(max_length=40)] = None,
) -> Response:
    """A comparison of this master's lanes: a page that prints, a table, or everything as JSON."""
    made = report_of(
        ctx.database, ctx.places, master_id, look=partial(in_child, limit_s=PICTURE_LIMIT_S), against=against
    )
    text = as_html(made) if form == "html" else as_csv(made) if form == "csv" else as_json(made)
    kind = "application/json" if form == "json" else f"text/{form}"
    name = portable_stem(f"{PurePath(made.master_name).stem} - what arrives where")
    shown = "inline" if form == "html" else "attachment"
    headers = {"content-disposition": f"{shown}; filename*=UTF-8''{quote(name)}.{form}", "cache-control": "no-store"}
    if form == "html":
        headers["content-security-policy"] = (
            f"{page_policy()}; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
        )
    return Response(text, media_type=f"{kind}; charset=utf-8", headers=headers)


@router.get("/masters/{master_id}/fewest")
def fewest(master_id: str, ctx: Ctx) -> FewestFiles:
    """The fewest files that serve all lanes of this master, and whom each serves."""
    return _fewest(ctx, master_id)[0]


@router.post("/masters/{master_id}/fewest")
def take_fewest(master_id: str, ctx: Ctx) -> Applied:
    """Let lanes share those files; what their parcels were before can be put back."""
    with ctx.database.transaction():
        files, every = _fewest(ctx, master_id)
        before = parcels_state(ctx.database, master_id)
        if len(files.files) == files.now_files:
            raise BadChoice("Every lane needs a file of its own.", "Pack them as they are.", code="nothing_to_share")
        parcels.keep_all(ctx.database, master_id, shared_parcels(files, every))
        return Applied(before=with_revisions(ctx.database, master_id, before))


def _fewest(ctx: Context, master_id: str) -> tuple[FewestFiles, list[PlannedParcel]]:
    """Weighed as if every lane had its own file still."""
    master, facts = readable(ctx.database, master_id)
    alone = [parcel.model_copy(update={"served_by": None}) for parcel in lanes_of(ctx.database, master_id)]
    every = [planned_on(ctx.database, parcel, master, facts) for parcel in alone]
    return fewest_now(
        ctx.database, lanes_now(ctx.database, every, settings.load(ctx.database).line, beside=False)
    ), every


class _Work:
    """Open jobs of a master, asked for once."""

    def __init__(self, ctx: Context, master_id: str) -> None:
        self._open: dict[tuple[str | None, JobKind], Job] = {}
        for job in jobs.open_of(ctx.database, master_id):
            self._open.setdefault((job.parcel_id, job.kind), job)

    def of(self, parcel_id: str, kind: JobKind) -> Job | None:
        return self._open.get((parcel_id, kind))
