"""`hardy-parcel serve` and the program's entry point: the commands, and the screens with their worker, on loopback."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import threading
from contextlib import suppress
from pathlib import Path

import click

from .cli import main
from .core.errors import BadInput
from .processes.loopback import new_secret
from .processes.scratch import Scratch, sweep, users_root
from .store.logs import log_to_file
from .store.places import Places

HOST = "127.0.0.1"


def run(
    *, data: Path, port: int, demo: bool, folders: tuple[Path, ...] = (), verbose: bool = False, docks: bool = True
) -> None:
    """Serve until interrupted, with the stand-in platforms beside.

    Raises BadInput when the port is taken, FolderUnusable when another one serves from the data folder.
    """
    import uvicorn  # here, since all other commands would wait half a second for it

    from .web.app import DocksBeside, make_app
    from .web.connections import KEEP_ALIVE_S, BoundedProtocol, raise_open_files

    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            raise BadInput(f"Port {port} is in use.", "Stop the other program or give another --port.") from error
    os.umask(
        0o077
    )  # what is kept of a creator's films is nobody else's; a parcel's file gets its folder's permissions when it is done
    places = Places.of(data, also=folders)
    places.claim()
    log_to_file(places.data, "service", verbose=verbose)
    scratch = Scratch(places.scratch, "service").use_by_default()
    sweep(users_root())
    key = places.start_key()
    folder = places.data.with_name(f"{places.data.name}-docks")
    beside = DocksBeside(folder=folder, listening=_listening(port + 1), secret=new_secret()) if docks else None
    app = make_app(places, key=key, verbose=verbose, docks=beside)
    click.echo(f"Hardy Parcel is at http://{HOST}:{port}/?key={key}")
    click.echo(f"The key lets your browser in and no other account of this machine; it is kept in {places.key_file}")
    click.echo(f"Masters are taken from {places.inbox}")
    if beside:
        click.echo(f"The stand-in platforms take what you send at port {beside.port} and keep it in {beside.folder}")
    maker = None
    if demo:
        click.echo("The Skerry Point masters are being made and appear on the shelf one by one.")
        maker = subprocess.Popen([sys.executable, "-m", "hardy_parcel.demo", str(places.inbox)], stdin=subprocess.PIPE)
        threading.Thread(
            target=maker.wait, daemon=True
        ).start()  # so that it does not stay in the process table when it is done
    try:
        raise_open_files()
        uvicorn.run(
            app,
            host=HOST,
            port=port,
            log_level="warning",
            timeout_graceful_shutdown=2,
            timeout_keep_alive=KEEP_ALIVE_S,
            http=BoundedProtocol,
        )
    finally:
        scratch.close()
        if maker and maker.poll() is None:
            maker.terminate()
            with suppress(subprocess.TimeoutExpired):
                maker.wait(timeout=5)


def _listening(wanted: int) -> socket.socket:
    """A socket that listens at a port that nobody has: this one, or else any. It is handed on as it is, so that nobody else can take the
    port meanwhile."""
    for port in (wanted if wanted < 65536 else 0, 0):
        listening = socket.socket()
        try:
            listening.bind((HOST, port))
            listening.listen(128)
        except OSError:
            listening.close()
            continue
        return listening
    raise BadInput("No port is free for the stand-in platforms.", "Close other programs, or start with --no-docks.")


@main.command()
@click.option(
    "--data", type=click.Path(path_type=Path), default=Path("parcel-data"), show_default=True, help="Data folder."
)
@click.option("--port", type=click.IntRange(1, 65535), default=8640, show_default=True)
@click.option(
    "--folder",
    "folders",
    type=click.Path(path_type=Path, file_okay=False, exists=True),
    multiple=True,
    help="A folder besides your home that masters may be opened from and parcels written to; may be repeated.",
)
@click.option("--demo", is_flag=True, help="Make the Skerry Point masters while serving.")
@click.option(
    "--docks/--no-docks",
    default=True,
    show_default=True,
    help="The stand-in platforms, in a process and a folder of their own.",
)
@click.option(
    "--verbose", is_flag=True, help="Tell on the terminal what goes on; trouble is always in the data folder's logs."
)
def serve(data: Path, port: int, folders: tuple[Path, ...], demo: bool, docks: bool, verbose: bool) -> None:
    """Serve the screens on this machine only."""
    run(data=data, port=port, demo=demo, folders=folders, verbose=verbose, docks=docks)


if __name__ == "__main__":
    main()
