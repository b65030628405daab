"""Damaged and misnamed files by the hundred, put through a real service: it must answer each and stay up.

    python -m benchmarks.hostile [how many of each kind]

Each file goes into the inbox of a service of its own; for each a clear sentence or honest facts must come back, and at
the end no process, temporary file or lock may be left behind.
"""

from __future__ import annotations

import gzip
import io
import random
import socket
import struct
import subprocess
import sys
import tarfile
import tempfile
import threading
import time
import zipfile
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import httpx
import numpy as np
import uvicorn
from PIL import Image

from hardy_parcel.store.places import Places
from hardy_parcel.web.app import make_app

from .detector_films import Scene, finish, speech, write

PATIENCE_S = 240
Damage = Callable[[bytes, random.Random], bytes]


def bases(folder: Path) -> dict[str, bytes]:
    """A whole film of every container we take, by its ending."""
    scene, rng = Scene(3, 160, 120), np.random.default_rng(1)
    pictures = [finish(scene(i / 25), 1.0, rng) for i in range(25)]
    made = {}
    for ending, codec, sound_codec in (
        (".mp4", "libx264", "aac"), (".mov", "libx264", "pcm_s16le"), (".mkv", "libx264", "aac"), (".webm", "libvpx-vp9", "libopus"),
        (".avi", "mpeg4", "pcm_s16le"), (".ts", "mpeg2video", "aac"), (".mpg", "mpeg2video", "mp2"),
    ):
        path = folder / f"base{ending}"
        sound = speech(1.0, 5) if sound_codec != "libopus" else None
        write(path, iter(pictures), Fraction(25), codec=codec, sound=sound, sound_codec=sound_codec)
        made[ending] = path.read_bytes()
    return made


def flipped(data: bytes, rng: random.Random) -> bytes:
    out = bytearray(data)
    for _ in range(rng.choice((1, 8, 60, 400))):
        out[rng.randrange(len(out))] ^= 1 << rng.randrange(8)
    return bytes(out)


def flipped_head(data: bytes, rng: random.Random) -> bytes:
    out = bytearray(data)
    for _ in range(rng.choice((1, 4, 20))):
        out[rng.randrange(min(900, len(out)))] = rng.randrange(256)
    return bytes(out)


def cut(data: bytes, rng: random.Random) -> bytes:
    return data[: rng.randrange(len(data))]


def beheaded(data: bytes, rng: random.Random) -> bytes:
    return data[rng.randrange(1, len(data)) :]


def zeroed(data: bytes, rng: random.Random) -> bytes:
    start = rng.randrange(len(data))
    length = rng.randrange(1, max(2, len(data) // 3))
    return data[:start] + bytes(min(length, len(data) - start)) + data[start + length :]


def shuffled(data: bytes, rng: random.Random) -> bytes:
    parts = [data[i : i + len(data) // 9 + 1] for i in range(0, len(data), len(data) // 9 + 1)]
    rng.shuffle(parts)
    return b"".join(parts)


def absurd_numbers(data: bytes, rng: random.Random) -> bytes:
    """Sizes, counts and durations of the index set to the largest or to nothing."""
    out = bytearray(data)
    names = (b"tkhd", b"mvhd", b"mdhd", b"stsz", b"stco", b"stts", b"stsc", b"avc1", b"elst", b"moov", b"trak", b"mdat", b"ctts")
    for name in rng.sample(names, 4):
        place = out.find(name)
        if place > 4:
            for _ in range(2):
                at = place + rng.choice((-4, 4, 8, 12, 16, 20, 24, 76, 80))
                if 0 <= at < len(out) - 4:
                    out[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\0\0\0\0", b"\0\0\0\1"))
    return bytes(out)


def swapped_atoms(data: bytes, rng: random.Random) -> bytes:
    """The top boxes of an MP4 in another order, or one of them twice."""
    parts, at = [], 0
    while at + 8 <= len(data):
        size = struct.unpack(">I", data[at : at + 4])[0] or len(data) - at
        if size < 8:
            break
        parts.append(data[at : at + size])
        at += size
    rng.shuffle(parts)
    return b"".join([*parts, rng.choice(parts)] if parts else [data])


def nested(data: bytes, rng: random.Random) -> bytes:
    return data[:64] + data + data[64:]


def doubled(data: bytes, rng: random.Random) -> bytes:
    return data + data


DAMAGES: tuple[Damage, ...] = (
    flipped, flipped_head, cut, beheaded, zeroed, shuffled, absurd_numbers, swapped_atoms, nested, doubled,
)


def strangers() -> Iterator[tuple[str, bytes]]:
    """Files that are something else, under a film's name."""
    rng = random.Random(8)
    yield "empty.mp4", b""
    yield "one byte.mov", b"\0"
    yield "letter.mp4", b"Dear keeper,\n" * 400
    yield "noise.mkv", rng.randbytes(60_000)
    yield "zeros.mp4", bytes(200_000)
    yield "page.mp4", b"<html><body><video src='http://example.invalid/a.mp4'></video></body></html>"
    yield "playlist.mp4", b"#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n"
    yield "script.mov", b"ffconcat version 1.0\nfile '/etc/passwd'\n"
    yield "subtitles.mkv", b"1\n00:00:00,000 --> 00:00:02,000\nThe lamp is lit.\n"
    yield "index only.mp4", b"\0\0\0\x18ftypisom\0\0\0\0isommp41\0\0\0\x08moov"
    yield "box larger than the world.mp4", b"\0\0\0\x18ftypisom\0\0\0\0isommp41\0\0\0\1moov" + b"\xff" * 8 + bytes(64)
    yield "boxes without end.mp4", (b"\0\0\0\x08free") * 30_000
    yield "boxes in boxes.mp4", b"\0\0\0\x18ftypisom\0\0\0\0isommp41" + b"".join(
        struct.pack(">I4s", 8 * (400 - i), b"moov") for i in range(400)
    )
    picture = io.BytesIO()
    Image.new("L", (20_000, 20_000)).save(picture, "PNG")
    yield "picture bomb.mp4", picture.getvalue()
    yield "packed.mov", gzip.compress(bytes(40_000_000))
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("film.mp4", bytes(5_000_000))
    yield "archive.mp4", archive.getvalue()
    bundle = io.BytesIO()
    with tarfile.open(fileobj=bundle, mode="w") as tar:
        tar.addfile(tarfile.TarInfo("film.mp4"), io.BytesIO(b""))
    yield "bundle.mkv", bundle.getvalue()
    yield "program.avi", Path(sys.executable).resolve().read_bytes()[:300_000]
    yield "riff with nothing.avi", b"RIFF\xff\xff\xff\xffAVI LIST"
    yield "ebml with nothing.mkv", b"\x1a\x45\xdf\xa3\x01\xff\xff\xff\xff\xff\xff\xff"
    yield "sync bytes.ts", b"\x47" * 188 * 600
    yield "long name " + "x" * 180 + ".mp4", b"nothing"


def corpus(folder: Path, *, each: int) -> list[Path]:
    """Write the corpus: `each` films of every damage and container, and the strangers."""
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        whole = bases(Path(scratch))
    written = []
    for damage in DAMAGES:
        for ending, data in whole.items():
            for number in range(each):
                rng = random.Random(f"{damage.__name__}{ending}{number}")
                path = folder / f"{damage.__name__} {number}{ending}"
                path.write_bytes(damage(data, rng))
                written.append(path)
    for name, data in strangers():
        (folder / name).write_bytes(data)
        written.append(folder / name)
    return written


def put_through(files: list[Path], data: Path, *, batch: int = 40) -> dict[str, int]:
    """Every file through a service; returns how many ended how. Raises AssertionError when one is left without an answer."""
    places = Places.of(data)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    app = make_app(places, key=places.start_key())
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error", timeout_graceful_shutdown=1))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    ends: dict[str, int] = {}
    let_in = {"authorization": f"Bearer {places.start_key()}"}
    with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", timeout=60, headers=let_in) as http:
        _until(lambda: server.started, "the service")
        for start in range(0, len(files), batch):
            here = files[start : start + batch]
            for file in here:
                (places.inbox / file.name).write_bytes(file.read_bytes())
            answered = _until(lambda here=here: _answers(http, {file.name for file in here}), f"answers from {here[0].name} on")
            for master in answered:
                kind = master["state"] if master["state"] != "ready" else "checked" if master["picture_checked"] else "partly checked"
                ends[kind] = ends.get(kind, 0) + 1
            for file in here:
                (places.inbox / file.name).unlink()
    server.should_exit = True
    thread.join(timeout=30)
    assert not thread.is_alive(), "the service did not end"
    _left_nothing(places)
    return ends


def _answers(http: httpx.Client, names: set[str]) -> list[dict] | None:
    """The masters of these names once each is through: refused with a sentence, or read and no job open for it."""
    found = [m for m in http.get("/masters").json()["masters"] if m["name"] in names]
    if len(found) < len(names) or any(m["state"] == "reading" for m in found):
        return None
    busy = {job["master_id"] for job in http.get("/jobs").json()}
    if any(m["id"] in busy for m in found):
        return None
    for master in found:
        if master["state"] == "unreadable":
            problem = master["problem"]
            assert problem["what"].endswith("."), problem
            assert problem["code"] != "trouble", problem
            assert "Error" not in problem["what"], problem
            assert "Errno" not in problem["what"], problem
    return found


def _until(seen: Callable[[], object], what: str):
    ends = time.monotonic() + PATIENCE_S
    while time.monotonic() < ends:
        if found := seen():
            return found
        time.sleep(0.1)
    raise AssertionError(f"waited in vain for {what}")


def _left_nothing(places: Places) -> None:
    ends = time.monotonic() + 20
    while time.monotonic() < ends:
        running = subprocess.run(["pgrep", "-f", str(places.data)], capture_output=True, text=True).stdout.split()
        if not running:
            break
        time.sleep(0.1)
    assert not running, f"processes are left: {running}"
    scratch = places.cache / "scratch"
    left = [str(p) for p in scratch.rglob("*")] if scratch.exists() else []
    locks = [str(p) for p in places.data.rglob("*.lock")] + [str(p) for p in places.data.rglob("*.partial")]
    assert not left + locks, f"files are left: {left + locks}"


def main() -> int:
    each = int(sys.argv[1]) if len(sys.argv) > 1 else 5
    with tempfile.TemporaryDirectory(prefix="hostile-") as folder:
        files = corpus(Path(folder) / "corpus", each=each)
        began = time.monotonic()
        ends = put_through(files, Path(folder) / "data")
        spent = time.monotonic() - began
    print(f"{len(files)} files in {spent:.0f} s: " + ", ".join(f"{count} {kind}" for kind, count in sorted(ends.items())))
    return 0


if __name__ == "__main__":
    sys.exit(main())
