"""The application: routers, safety, the built front end, and the worker beside it."""

from __future__ import annotations

import asyncio
import socket
import sys
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, PlainTextResponse, Response
from starlette.staticfiles import StaticFiles

from .. import __version__
from ..core.errors import HardyParcelError
from ..docks.catalogue import guidance_span
from ..processes import nursery
from ..store import kept_recipes, settings
from ..store.database import Database
from ..store.places import Places
from ..store.settings import Docks
from ..work.recovery import remove_unowned_arrivals
from . import (
    batch_routes,
    dispatch_routes,
    film_look_routes,
    forecast_routes,
    frame_routes,
    framing_routes,
    lane_routes,
    look_routes,
    machine_routes,
    master_routes,
    packing_routes,
    parcel_routes,
    problems,
    receipt_routes,
    recipe_routes,
    recommended_routes,
    returned_routes,
    saying_routes,
    sending_routes,
    sheet_routes,
    upload_routes,
)
from .context import Context
from .happenings import Happenings
from .security import Guard

STATIC = Path(__file__).parent / "static"
RESTART_S = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class DocksBeside:
    """The stand-in platforms: their own folder, the socket that they answer at, which is bound already, and the secret that both sides
    have."""

    folder: Path
    listening: socket.socket
    secret: str

    @property
    def port(self) -> int:
        return int(self.listening.getsockname()[1])


def make_app(
    places: Places,
    *,
    key: str,
    worker: bool = True,
    static: Path = STATIC,
    verbose: bool = False,
    docks: DocksBeside | None = None,
) -> FastAPI:
    """The service over one data folder, for those who have the `key`; with `worker` it keeps a worker process running beside it, with
    `docks` the stand-in platforms."""

    database = Database(places.database)
    kept_recipes.renew(database, guidance_span(database))
    places.allow(settings.load(database).folders)
    remove_unowned_arrivals(database, places)
    settings.set_docks(
        database, Docks(address=f"http://127.0.0.1:{docks.port}", secret=docks.secret) if docks else None
    )
    context = Context(database=database, places=places, happenings=Happenings(database))

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        nursery.prepare()  # so that the first picture somebody asks for is there sooner
        keepers = [asyncio.create_task(context.steppers.tidy()), asyncio.create_task(context.happenings.follow())]
        keepers.append(asyncio.create_task(upload_routes.keep_swept(places)))
        if worker:
            folders = (word for folder in places.allowed for word in ("--folder", str(folder)))
            told = [str(places.data), *folders, *(["--verbose"] if verbose else [])]
            keepers.append(asyncio.create_task(_keep("hardy_parcel.work.worker", told)))
        if docks:
            fd = docks.listening.fileno()
            told = [str(docks.folder), "--listening", str(fd)]
            keepers.append(
                asyncio.create_task(_keep("hardy_parcel.docks.service", told, first=docks.secret, ends=(fd,)))
            )
        yield
        for keeper in keepers:
            keeper.cancel()
            with suppress(asyncio.CancelledError):
                await keeper
        await context.steppers.close()
        with suppress(HardyParcelError):
            await asyncio.to_thread(database.checkpoint)

    app = FastAPI(
        title="Hardy Parcel",
        version=__version__,
        lifespan=lifespan,
        responses=problems.PROBLEMS,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    app.state.context = context
    problems.install(app)
    for room in (
        master_routes,
        frame_routes,
        look_routes,
        film_look_routes,
        framing_routes,
        recipe_routes,
        parcel_routes,
        packing_routes,
        recommended_routes,
        lane_routes,
        saying_routes,
        forecast_routes,
        sheet_routes,
        dispatch_routes,
        receipt_routes,
        sending_routes,
        returned_routes,
        machine_routes,
        upload_routes,
        batch_routes,
    ):
        app.include_router(room.router)
    app.include_router(upload_routes.tus_router(places))
    _serve_front_end(app, static)
    app.add_middleware(Guard, key=key, key_file=places.key_file)
    _build_routes(app)
    return app


def _build_routes(app: FastAPI) -> None:
    """The library builds the routes of included routers when one is first asked for: half a second on the event loop, in which nothing
    else is answered. So all are asked for before anybody is."""
    nowhere = {"type": "http", "method": "GET", "path": "/nowhere", "root_path": "", "headers": []}
    for route in app.routes:
        route.matches(dict(nowhere))


async def _keep(module: str, told: list[str], *, first: str = "", ends: tuple[int, ...] = ()) -> None:
    """Run a process beside us; whenever it ends, start another. Closing its input ends it and its children.

    It inherits the open files `ends`, and is told a `first` line that no other account of the machine can read.
    """
    while True:
        child = await asyncio.create_subprocess_exec(
            sys.executable,
            "-m",
            module,
            *told,
            stdin=asyncio.subprocess.PIPE,
            pass_fds=ends,
        )
        if first and child.stdin:
            with suppress(OSError):
                child.stdin.write(f"{first}\n".encode())
                await child.stdin.drain()
        try:
            await child.wait()
        except asyncio.CancelledError:
            if child.stdin:
                child.stdin.close()
            try:
                await asyncio.wait_for(child.wait(), timeout=5)
            except TimeoutError:
                child.kill()
            raise
        await asyncio.sleep(RESTART_S)


STATIC_FILES = {"favicon.svg": "image/svg+xml", "notices.txt": "text/plain; charset=utf-8"}


def _serve_front_end(app: FastAPI, static: Path) -> None:
    """The built page at every address that is not the API's, since the page does its own routing."""
    if (static / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=static / "assets"), name="assets")

    @app.get("/api/{rest:path}", include_in_schema=False)
    def no_such_api(rest: str) -> Response:
        return problems.problem(404, "There is no such address.", "not_found")

    @app.get("/{rest:path}", include_in_schema=False)
    def page(rest: str) -> Response:
        index = static / "index.html"
        if rest in STATIC_FILES and (static / rest).is_file():
            return FileResponse(static / rest, media_type=STATIC_FILES[rest])
        if not index.is_file():
            return PlainTextResponse("The page is not built yet. Run 'make setup'.", status_code=503)
        return FileResponse(index, media_type="text/html", headers={"cache-control": "no-cache"})
