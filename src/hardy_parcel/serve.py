"""Starts the service on loopback, with its worker and, if asked, the maker of the demo masters beside it."""

from __future__ import annotations

import socket
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

import click
import uvicorn

from .core.errors import BadInput
from .store.places import Places
from .web.app import make_app

HOST = "127.0.0.1"


def run(*, data: Path, port: int, demo: bool) -> None:
    """Serve until interrupted. Raises BadInput when the port is taken."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            raise BadInput(f"Port {port} is in use.", "Stop the other program or give another --port.") from error
    places = Places.of(data)
    app = make_app(places)
    click.echo(f"Hardy Parcel is at http://{HOST}:{port}")
    click.echo(f"Masters are taken from {places.inbox}")
    maker = None
    if demo:
        click.echo("The Skerry Point masters are being made and appear on the shelf one by one.")
        maker = subprocess.Popen(
            [sys.executable, "-m", "hardy_parcel.demo", str(places.inbox)], stdin=subprocess.PIPE
        )
    try:
        uvicorn.run(app, host=HOST, port=port, log_level="warning", timeout_graceful_shutdown=2)
    finally:
        if maker and maker.poll() is None:
            maker.terminate()
            with suppress(subprocess.TimeoutExpired):
                maker.wait(timeout=5)
