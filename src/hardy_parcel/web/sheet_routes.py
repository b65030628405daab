"""Rule sheets: read, made, edited, pasted into, compared, brought back, taken out and in."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from ..core.arrival.trusting import StepKey, TrustStep
from ..core.errors import BadInput, NameTaken, NotFound
from ..core.sheets.paste_taking import Taken, TakenInto, take_into
from ..core.sheets.pasting import Pasted, paste
from ..core.sheets.sheet import Assumed, Handling, Identifier, Placement, Sheet
from ..core.sheets.sheet_documents import (
    Change,
    Fault,
    age_days,
    assumed_handling,
    blank_sheet,
    changes,
    faults_of,
    guidance_csv,
    read_sheet,
    reminder,
    schema,
    write_sheet,
)
from ..core.sheets.sheet_text import Grid, SheetRow, grids, sheet_rows, takes_sentence
from ..docks.catalogue import check_new, sheets_now, versions_of
from ..docks.shipped import shipped_sheets
from ..planned.trusted import trust_now
from ..store import kept_sheets as store
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["sheets"])


class DestinationView(BaseModel):
    """One destination to choose for a lane, with what it takes and how old its sheet is."""

    id: str
    sheet_id: str
    name: str
    placement: str
    kind: str
    takes: str
    age_days: int
    reminder: str | None


class PlacementView(BaseModel):
    """One placement of a sheet as a person reads it."""

    placement: Placement
    told: tuple[SheetRow, ...]
    grids: tuple[Grid, ...]


class VersionRow(BaseModel):
    version: int
    checked_on: date
    source: str


class SheetView(BaseModel):
    """A sheet with its versions; `shipped` sheets go back to what ships when they are removed."""

    sheet: Sheet
    shipped: bool
    age_days: int
    reminder: str | None
    placements: tuple[PlacementView, ...]
    versions: tuple[VersionRow, ...]


class SheetRequest(BaseModel):
    """A changed sheet as a document, and the version it was made from."""

    document: dict[str, Any]
    based_on: Annotated[int, Field(ge=1)]


class NewSheetRequest(BaseModel):
    """A sheet of one's own: by copying another, or from nothing."""

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=80)]
    copy_of: Identifier | None = None


class TextRequest(BaseModel):
    text: Annotated[str, Field(max_length=400_000)]


class DocumentRequest(BaseModel):
    document: dict[str, Any]


class TakeRequest(BaseModel):
    """A placement's draft, what is taken of a paste, and whether it stands instead of the guidance that is there."""

    draft: dict[str, Any]
    taken: Taken
    instead: bool = True


class AssumeRequest(BaseModel):
    """A placement whose handling is not known, and what to suppose."""

    placement: Placement
    assumed: Assumed


class VersionView(BaseModel):
    """An older version and what has changed since."""

    sheet: Sheet
    changes: tuple[Change, ...]


class ParcelOfSheet(BaseModel):
    """A packed file that can be uploaded by hand."""

    job_id: str
    file_name: str
    path: str
    made_at: float


class FileOfSheet(BaseModel):
    """A file that came back: whether it was measured, and why it could not be."""

    id: str
    file_name: str
    measured: bool
    problem: str


class TrustView(BaseModel):
    """How far one placement's figures can be trusted, the step that is next (None after the last), its parcels and what came back."""

    destination_id: str
    placement: str
    trust: str
    steps: tuple[TrustStep, ...]
    next_step: StepKey | None
    parcels: list[ParcelOfSheet]
    returned: list[FileOfSheet]


def _today() -> date:
    return date.today()


def _newest(ctx: Context, sheet_id: str) -> Sheet:
    found = next((one for one in sheets_now(ctx.database) if one.id == sheet_id), None)
    if found is None:
        raise NotFound(f"There is no rule sheet '{sheet_id}'.", "Choose another one.")
    return found


def _view(ctx: Context, sheet: Sheet) -> SheetView:
    return SheetView(
        sheet=sheet, shipped=any(one.id == sheet.id for one in shipped_sheets()), age_days=age_days(sheet, _today()),
        reminder=reminder(sheet, _today()),
        placements=tuple(PlacementView(placement=p, told=sheet_rows(p), grids=grids(p)) for p in sheet.placements),
        versions=tuple(
            VersionRow(version=one.version, checked_on=one.checked_on, source=one.source) for one in versions_of(ctx.database, sheet.id)
        ),
    )


@router.get("/destinations")
def destinations(ctx: Ctx) -> list[DestinationView]:
    """Every destination that may be chosen."""
    return [
        DestinationView(
            id=f"{sheet.id}-{place.id}", sheet_id=sheet.id, name=sheet.name, placement=place.name, kind=sheet.kind,
            takes=takes_sentence(place), age_days=age_days(sheet, _today()), reminder=reminder(sheet, _today()),
        )
        for sheet in sheets_now(ctx.database) for place in sheet.placements
    ]


@router.get("/sheets")
def list_sheets(ctx: Ctx) -> list[SheetView]:
    """Every sheet in use."""
    return [_view(ctx, sheet) for sheet in sheets_now(ctx.database)]


@router.get("/sheets/schema.json")
def sheet_schema() -> dict[str, Any]:
    """The JSON Schema of a rule sheet."""
    return schema()


@router.post("/sheets", status_code=201)
def make_sheet(request: NewSheetRequest, ctx: Ctx) -> SheetView:
    """A sheet of one's own; an id that is or was used is refused."""
    try:
        versions_of(ctx.database, request.id)
    except NotFound:
        pass
    else:
        raise NameTaken(f"There is, or was, a rule sheet '{request.id}'.", "Choose another id.")
    if request.copy_of is None:
        sheet = blank_sheet(sheet_id=request.id, name=request.name, today=_today())
    else:
        base = _newest(ctx, request.copy_of)
        sheet = base.model_copy(update={"id": request.id, "name": request.name})
    return _view(ctx, store.keep(ctx.database, check_new(ctx.database, sheet)))


@router.post("/sheets/check")
def check_sheet(request: DocumentRequest) -> list[Fault]:
    """Every error of a document; none for a good one."""
    return list(faults_of(request.document))


@router.post("/sheets/paste")
def paste_table(request: TextRequest) -> Pasted:
    """Rows of guidance and stated limits out of a pasted page, what is asked before it is taken, and what was not understood."""
    return paste(request.text)


@router.post("/sheets/take")
def take_pasted(request: TakeRequest) -> TakenInto:
    """A placement's draft with what was taken of a paste, and the limits that follow. Nothing is kept."""
    return take_into(request.draft, request.taken, instead=request.instead)


@router.post("/sheets/assume")
def assume(request: AssumeRequest) -> Handling:
    """A handling to suppose for a placement."""
    if not request.placement.picture:
        raise BadInput("A feed of sound has no picture whose handling could be assumed.", "Leave it as it is.", code="bad_sheet")
    return assumed_handling(request.assumed, request.placement)


@router.post("/sheets/import", status_code=201)
def import_sheet(request: TextRequest, ctx: Ctx) -> SheetView:
    """Keep a sheet from its JSON text; one that is there already gets a new version."""
    sheet = check_new(ctx.database, read_sheet(request.text, name="you gave"))
    return _view(ctx, store.keep(ctx.database, sheet))


@router.get("/sheets/{sheet_id}")
def sheet(sheet_id: str, ctx: Ctx) -> SheetView:
    """One sheet."""
    return _view(ctx, _newest(ctx, sheet_id))


@router.get("/sheets/{sheet_id}/trust")
def trust(sheet_id: str, ctx: Ctx) -> list[TrustView]:
    """The way of a sheet from a help page to forecasts that can be trusted, and how far each of its placements is."""
    return [
        TrustView(
            destination_id=one.destination_id, placement=one.placement, trust=one.path.trust, steps=one.path.steps,
            next_step=one.path.next_step,
            parcels=[
                ParcelOfSheet(
                    job_id=kept.job_id, file_name=kept.receipt.file_name, path=f"{kept.receipt.folder}/{kept.receipt.file_name}",
                    made_at=kept.made_at,
                )
                for kept in one.receipts
            ],
            returned=[
                FileOfSheet(
                    id=record.id, file_name=record.file_name, measured=record.found is not None,
                    problem=f"{record.problem.what} {record.problem.todo}" if record.problem else "",
                )
                for record in one.returned
            ],
        )
        for one in trust_now(ctx.database, _newest(ctx, sheet_id))
    ]


@router.put("/sheets/{sheet_id}")
def change_sheet(sheet_id: str, request: SheetRequest, ctx: Ctx) -> SheetView:
    """Keep a changed sheet as a new version; refused when somebody has kept one meanwhile."""
    newest = _newest(ctx, sheet_id)
    if request.based_on != newest.version:
        what = f"{newest.name} has a version {newest.version} by now."
        raise NameTaken(what, "Look at it again, then make your change.", code="newer_version")
    if faults := faults_of(request.document):
        raise BadInput("; ".join(f"{fault.path}: {fault.why}" for fault in faults) + ".", "Correct it.", code="bad_sheet")
    changed = check_new(ctx.database, Sheet.model_validate(request.document).model_copy(update={"id": sheet_id}))
    if not changes(newest, changed):
        return _view(ctx, newest)
    return _view(ctx, store.keep(ctx.database, changed))


@router.delete("/sheets/{sheet_id}")
def remove_sheet(sheet_id: str, ctx: Ctx) -> list[SheetView]:
    """Take a sheet of one's own out of use. One that ships stays; its first version can be brought back."""
    _newest(ctx, sheet_id)
    if any(one.id == sheet_id for one in shipped_sheets()):
        raise BadInput("This rule sheet ships with the program.", "Leave it out of your lanes instead.", code="ships")
    store.remove(ctx.database, sheet_id)
    return list_sheets(ctx)


@router.get("/sheets/{sheet_id}/versions/{version}")
def version(sheet_id: str, version: int, ctx: Ctx) -> VersionView:
    """An older version, and what has changed from it to the newest."""
    found = _version(ctx, sheet_id, version)
    return VersionView(sheet=found, changes=changes(found, versions_of(ctx.database, sheet_id)[-1]))


def _version(ctx: Context, sheet_id: str, version: int) -> Sheet:
    found = next((one for one in versions_of(ctx.database, sheet_id) if one.version == version), None)
    if found is None:
        raise NotFound(f"There is no version {version} of this sheet.", "Choose another one.")
    return found


@router.post("/sheets/{sheet_id}/versions/{version}/bring-back")
def bring_back(sheet_id: str, version: int, ctx: Ctx) -> SheetView:
    """Keep an older version as the newest."""
    return _view(ctx, store.keep(ctx.database, check_new(ctx.database, _version(ctx, sheet_id, version))))


@router.get("/sheets/{sheet_id}/document.json", response_class=Response, responses={200: {"content": {"application/json": {}}}})
def document(sheet_id: str, ctx: Ctx) -> Response:
    """The sheet as a document to keep or to give away."""
    text = write_sheet(_newest(ctx, sheet_id))
    return Response(text, media_type="application/json", headers={"content-disposition": f'attachment; filename="{sheet_id}.json"'})


@router.get("/sheets/{sheet_id}/{placement_id}/guidance.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def guidance(sheet_id: str, placement_id: str, ctx: Ctx) -> Response:
    """A placement's guidance as CSV."""
    place = next((one for one in _newest(ctx, sheet_id).placements if one.id == placement_id), None)
    if place is None:
        raise NotFound("There is no such placement on this sheet.", "Choose another one.")
    name = f"{sheet_id}-{placement_id}.csv"
    return Response(guidance_csv(place), media_type="text/csv", headers={"content-disposition": f'attachment; filename="{name}"'})
