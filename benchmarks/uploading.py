"""Peak memory of the service while a large film is uploaded to it; prints the ratio of a large one to a small one.

    python -m benchmarks.uploading [gigabytes]
"""

from __future__ import annotations

import base64
import hashlib
import re
import sys
import time
from pathlib import Path

import httpx

from .service import service_of_its_own

TUS = {"tus-resumable": "1.0.0"}
PART = 8 << 20


def peak_mib(pid: int) -> float:
    return int(re.search(r"VmHWM:\s+(\d+)", Path(f"/proc/{pid}/status").read_text())[1]) / 1024


def send(http: httpx.Client, size: int) -> float:
    """Upload `size` bytes and have the checksum compared; returns the seconds."""
    block, whole = bytes(range(256)) * (PART // 256), hashlib.sha256()
    name = base64.b64encode(b"large.mp4").decode()
    began = time.monotonic()
    answer = http.post("/uploads", headers={**TUS, "upload-length": str(size), "upload-metadata": f"filename {name},filetype {name}"})
    where, offset = answer.headers["location"], 0
    while offset < size:
        part = block[: min(PART, size - offset)]
        whole.update(part)
        http.patch(where, content=part, headers={
            **TUS, "upload-offset": str(offset), "content-type": "application/offset+octet-stream",
        }).raise_for_status()
        offset += len(part)
    http.post(f"/uploads/{where.rsplit('/', 1)[1]}/finish", json={"sha256": whole.hexdigest()}).raise_for_status()
    return time.monotonic() - began


def main(*, small: bool = False) -> None:
    gigabytes = float(next((word for word in sys.argv[1:] if not word.startswith("-")), 4))
    sizes = (1_000_000, 9_000_000) if small else (64_000_000, round(gigabytes * 1e9))
    peaks = []
    with service_of_its_own() as (service, http, _):
        for size in sizes:
            spent = send(http, size)
            peaks.append(peak_mib(service.pid))
            print(f"{size / 1e9:.3g} GB in {spent:.0f} s, peak of the service {peaks[-1]:.0f} MiB", flush=True)
    print(f"ratio {peaks[1] / peaks[0]:.2f} for {sizes[1] / sizes[0]:.0f} × the size")


if __name__ == "__main__":
    main(small="--small" in sys.argv)
