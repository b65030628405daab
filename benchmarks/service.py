"""A service on a data folder of its own, for as long as it is measured."""

from __future__ import annotations

import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx

from hardy_parcel.store.places import Places


@contextmanager
def service_of_its_own() -> Iterator[tuple[subprocess.Popen[bytes], httpx.Client, Path]]:
    """The running process, a client of its API, and its data folder."""
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch, socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
        probe.close()
        service = subprocess.Popen([sys.executable, "-m", "hardy_parcel.serve", "serve", "--data", scratch, "--port", str(port)])
        try:
            with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", timeout=600) as http:
                while True:
                    try:
                        http.get("/masters")
                        break
                    except httpx.TransportError:
                        time.sleep(0.1)
                http.headers["authorization"] = f"Bearer {Places.of(Path(scratch)).start_key()}"
                yield service, http, Path(scratch)
        finally:
            service.terminate()
            service.wait()
