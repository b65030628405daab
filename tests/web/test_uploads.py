"""Resumable uploads by tus through a real server, interrupted in every way."""

from __future__ import annotations

import base64
import errno
import hashlib
import json
import os
import shutil
import socket
import time
from pathlib import Path

import httpx
import pytest

from hardy_parcel.store.places import Places
from hardy_parcel.web import security
from hardy_parcel.web.upload_routes import forget, sweep_abandoned, unfinished

from ..service import Served
from .test_api import problem

TUS = {"tus-resumable": "1.0.0"}


def begin(served: Served, name: str, size: int) -> httpx.Response:
    told = f"filename {base64.b64encode(name.encode()).decode()},filetype {base64.b64encode(b'video/mp4').decode()}"
    return served.http.post("/uploads", headers={**TUS, "upload-length": str(size), "upload-metadata": told})


def send(served: Served, where: str, data: bytes, offset: int) -> httpx.Response:
    headers = {**TUS, "upload-offset": str(offset), "content-type": "application/offset+octet-stream"}
    return served.http.patch(where, content=data, headers=headers)


def reached(served: Served, where: str) -> int:
    return int(served.http.head(where, headers=TUS).headers["upload-offset"])


def upload_id(where: str) -> str:
    return where.rsplit("/", 1)[1]


def finish(served: Served, where: str, data: bytes) -> httpx.Response:
    return served.http.post(f"/uploads/{upload_id(where)}/finish", json={"sha256": hashlib.sha256(data).hexdigest()})


def test_a_film_arrives_in_parts_and_is_put_on_the_shelf(served: Served, gale: Path) -> None:
    data = gale.read_bytes()
    where = begin(served, "Sent: gale?.mp4", len(data)).headers["location"]
    half = len(data) // 2
    assert send(served, where, data[:half], 0).headers["upload-offset"] == str(half)
    assert reached(served, where) == half
    waiting = next(u for u in served.http.get("/uploads").json() if u["id"] == upload_id(where))
    assert (waiting["name"], waiting["received_bytes"], waiting["size_bytes"]) == ("Sent: gale?.mp4", half, len(data))
    problem(finish(served, where, data), 422, "unfinished")
    assert send(served, where, data[half:], half).status_code == 204
    master = finish(served, where, data)
    assert master.status_code == 201
    assert master.json()["uploaded"]
    name = master.json()["name"]
    assert name == "Sent gale.mp4"
    assert (served.places.inbox / name).read_bytes() == data
    served.master(name)
    assert upload_id(where) not in {u["id"] for u in served.http.get("/uploads").json()}
    assert served.http.delete(f"/masters/{master.json()['id']}").json() == {"file_deleted": True}
    assert not (served.places.inbox / name).exists()


def test_two_of_one_name_are_both_kept(served: Served, gale: Path) -> None:
    data, names = gale.read_bytes(), []
    for _ in range(2):
        where = begin(served, "Twin.mp4", len(data)).headers["location"]
        send(served, where, data, 0)
        names.append(finish(served, where, data).json()["name"])
    assert names == ["Twin.mp4", "Twin (2).mp4"]


def test_how_far_it_came_is_what_lies_on_the_disk_whatever_was_noted(served: Served, gale: Path) -> None:
    """As when the service dies in the middle of a part, or a disk loses what it had taken."""
    data = gale.read_bytes()
    where = begin(served, "Died.mp4", len(data)).headers["location"]
    send(served, where, data[:1000], 0)
    with open(served.places.uploads / upload_id(where), "ab") as file:
        file.write(data[1000:1500])  # written, and not noted any more
    assert reached(served, where) == 1500
    os.truncate(served.places.uploads / upload_id(where), 700)
    assert reached(served, where) == 700
    assert [one["received_bytes"] for one in served.http.get("/uploads").json() if one["id"] == upload_id(where)] == [700]
    assert send(served, where, data[1500:], 1500).status_code == 409
    send(served, where, data[700:], 700)
    assert finish(served, where, data).status_code == 201


@pytest.mark.parametrize(("number", "status"), [(errno.EFBIG, 507), (errno.EDQUOT, 507), (errno.EIO, 500)])
def test_what_the_disk_does_not_take_is_not_acknowledged_and_is_sent_again(
    served: Served, gale: Path, monkeypatch: pytest.MonkeyPatch, number: int, status: int
) -> None:
    data = gale.read_bytes()
    where = begin(served, "Failing.mp4", len(data)).headers["location"]
    send(served, where, data[:1000], 0)

    def fails(*_: object) -> None:
        raise OSError(number, os.strerror(number))

    with monkeypatch.context() as failing:
        failing.setattr("builtins.open", lambda path, mode="r", *rest, _open=open, **more: (
            fails() if "a" in mode and upload_id(where) in str(path) else _open(path, mode, *rest, **more)
        ))
        answer = send(served, where, data[1000:], 1000)
        assert answer.status_code == status
        assert "upload-offset" not in answer.headers
        assert reached(served, where) == 1000
    assert send(served, where, data[1000:], 1000).status_code == 204
    assert finish(served, where, data).status_code == 201


def test_a_part_in_chunks_that_is_refused_halfway_goes_on_from_what_was_written(
    served: Served, monkeypatch: pytest.MonkeyPatch
) -> None:
    data = os.urandom(3 << 20)
    where = begin(served, "Chunks.mp4", len(data)).headers["location"]
    headers = {**TUS, "upload-offset": "0", "content-type": "application/offset+octet-stream"}
    with monkeypatch.context() as bounded:
        bounded.setattr(security, "LARGEST_PART", 2 << 20)
        chunks = (data[place : place + 65_536] for place in range(0, len(data), 65_536))
        assert served.http.patch(where, content=chunks, headers=headers).status_code >= 400
    at = reached(served, where)
    assert at == (served.places.uploads / upload_id(where)).stat().st_size
    assert at <= 2 << 20
    assert (served.places.uploads / upload_id(where)).read_bytes() == data[:at]
    assert send(served, where, data[at:], at).status_code == 204
    assert finish(served, where, data).status_code == 201
    served.http.delete(f"/masters/{next(m['id'] for m in served.http.get('/masters').json()['masters'] if m['name'] == 'Chunks.mp4')}")


def test_an_upload_without_a_file_type_can_be_resumed(served: Served) -> None:
    told = {"upload-length": "4000", "upload-metadata": f"filename {base64.b64encode(b'Plain.mp4').decode()}"}
    where = served.http.post("/uploads", headers={**TUS, **told}).headers["location"]
    send(served, where, bytes(1000), 0)
    assert reached(served, where) == 1000
    assert send(served, where, bytes(3000), 1000).status_code == 204
    assert served.http.delete(where, headers=TUS).status_code == 204


def test_uploads_begin_again_after_the_cache_was_cleared_away(served: Served) -> None:
    where = begin(served, "Early.mp4", 4000).headers["location"]
    gone = served.places.cache.rename(served.places.data / "gone")  # at once: a strip may just be written into it
    shutil.rmtree(gone, ignore_errors=True)
    assert send(served, where, b"x", 0).status_code == 404
    where = begin(served, "Late.mp4", 4000).headers["location"]
    assert send(served, where, bytes(4000), 0).status_code == 204
    assert served.http.delete(where, headers=TUS).status_code == 204


def test_a_damaged_arrival_is_refused_and_removed(served: Served, gale: Path) -> None:
    data = gale.read_bytes()
    where = begin(served, "Bent.mp4", len(data)).headers["location"]
    send(served, where, data[:-1] + b"?", 0)
    detail = problem(finish(served, where, data), 422, "checksum_differs")
    assert "arrived different" in detail
    assert not (served.places.uploads / upload_id(where)).exists()
    problem(finish(served, where, data), 404, "not_found")
    assert not (served.places.inbox / "Bent.mp4").exists()


@pytest.mark.parametrize(("name", "size", "status"), [("letter.txt", 10, 415), ("huge.mp4", 1 << 50, None), ("vast.mp4", 1 << 40, 507)])
def test_what_is_not_taken(served: Served, name: str, size: int, status: int | None) -> None:
    answer = begin(served, name, size)
    assert answer.status_code == status or (status is None and answer.status_code in (413, 507))
    assert answer.json()["detail"]


def test_a_wrong_offset_is_refused_and_nothing_is_lost(served: Served) -> None:
    where = begin(served, "Offset.mp4", 5000).headers["location"]
    send(served, where, bytes(1000), 0)
    assert send(served, where, bytes(1000), 500).status_code == 409
    assert send(served, where, bytes(9000), 1000).status_code in (400, 413)
    assert reached(served, where) == 1000
    assert served.http.delete(where, headers=TUS).status_code == 204
    assert not (served.places.uploads / upload_id(where)).exists()


def test_parts_are_bounded(served: Served) -> None:
    where = begin(served, "Large.mp4", 1 << 30).headers["location"]
    headers = {**TUS, "upload-offset": "0", "content-type": "application/offset+octet-stream", "content-length": str(1 << 28)}
    port = int(served.url.rsplit(":", 1)[1])
    with socket.create_connection(("127.0.0.1", port)) as line:
        path = where.split("127.0.0.1", 1)[1].split("/", 1)[1]
        asked = {"host": f"127.0.0.1:{port}", **served.let_in, **headers}
        line.sendall(f"PATCH /{path} HTTP/1.1\r\n".encode() + "".join(f"{k}: {v}\r\n" for k, v in asked.items()).encode() + b"\r\n")
        assert b" 413 " in line.recv(200)
    served.http.delete(where, headers=TUS)


def test_an_unreadable_record_hides_nothing_else(places: Places) -> None:
    places.uploads.mkdir(parents=True)
    (places.uploads / f"{'a' * 32}.info").write_text("{")
    (places.uploads / f"{'b' * 32}.info").write_text(json.dumps({"metadata": {"filename": "x.mp4"}, "size": 9, "offset": 4}))
    (places.uploads / ("b" * 32)).write_bytes(b"1234")
    assert [u.id for u in unfinished(places)] == ["b" * 32]
    forget(places, "b" * 32)
    assert unfinished(places) == []


@pytest.mark.parametrize(
    "told",
    [
        {"upload-defer-length": "1"}, {"upload-concat": "partial", "upload-length": "9"}, {"upload-concat": "final;/api/uploads/a"},
        {"upload-length": "-1"}, {"upload-length": "0"}, {"upload-length": "1e3"}, {},
    ],
)
def test_a_length_that_is_promised_for_later_is_refused(served: Served, told: dict) -> None:
    name = {"upload-metadata": f"filename {base64.b64encode(b'Odd.mp4').decode()}"}
    answer = served.http.post("/uploads", headers={**TUS, **name, **told})
    assert answer.status_code == 400
    assert "length" in answer.json()["detail"]
    assert "Odd.mp4" not in [one["name"] for one in served.http.get("/uploads").json()]


def test_a_length_cannot_be_changed_on_the_way(served: Served) -> None:
    where = begin(served, "Steady.mp4", 4000).headers["location"]
    headers = {**TUS, "upload-offset": "0", "upload-length": "9000", "content-type": "application/offset+octet-stream"}
    assert served.http.patch(where, content=bytes(9000), headers=headers).status_code == 400
    assert served.http.delete(where, headers=TUS).status_code == 204


def test_only_what_is_taken_is_offered(served: Served) -> None:
    for path in ("/uploads", "/uploads/"):
        offered = served.http.options(path, headers=TUS).headers["tus-extension"]
        assert "creation" in offered
        assert "concatenation" not in offered
        assert "defer" not in offered


def test_a_disk_that_fills_up_is_said_and_the_upload_goes_on_later(served: Served, monkeypatch: pytest.MonkeyPatch) -> None:
    where = begin(served, "Filling.mp4", 3 << 20).headers["location"]
    assert send(served, where, bytes(1 << 20), 0).status_code == 204
    with monkeypatch.context() as full:
        def no_room(*_: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        full.setattr("builtins.open", lambda path, mode="r", *rest, _open=open, **more: (
            no_room() if "a" in mode and upload_id(where) in str(path) else _open(path, mode, *rest, **more)
        ))
        answer = send(served, where, bytes(2 << 20), 1 << 20)
        assert answer.status_code == 507
        assert "disk is full" in answer.json()["detail"]
    at = reached(served, where)
    assert at >= 1 << 20
    assert send(served, where, bytes((3 << 20) - at), at).status_code == 204
    assert served.http.delete(where, headers=TUS).status_code == 204


def test_what_nobody_sent_on_for_long_is_swept(places: Places) -> None:
    places.uploads.mkdir(parents=True, exist_ok=True)
    for name, age_s in (("a" * 32, 15 * 86400), ("b" * 32, 3600)):
        for file in (places.uploads / name, places.uploads / f"{name}.info"):
            file.write_text("{}")
            os.utime(file, (time.time() - age_s,) * 2)
    assert sweep_abandoned(places) == ["a" * 32]
    assert sorted(path.name for path in places.uploads.iterdir()) == ["b" * 32, f"{'b' * 32}.info"]
