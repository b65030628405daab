"""The stand-in platforms as a service: uploads over a line, refusals, what viewers get, and what outlives a death."""

from __future__ import annotations

import base64
import http.server
import json
import os
import shutil
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
import pytest

from hardy_parcel.core.arrival.docked import DockedParcel, DockState, SentOver, Words, unsteady_share
from hardy_parcel.core.errors import BadInput, Cancelled, DockAway, NotFound
from hardy_parcel.docks.service import MOST_UNFINISHED
from hardy_parcel.docks.shipped import shipped_sheets
from hardy_parcel.docks.yard import UNFINISHED_S, Yard
from hardy_parcel.media.verify import sha256
from hardy_parcel.processes.loopback import NONCE, PROOF, proof
from hardy_parcel.processes.messages import SendTask
from hardy_parcel.work import uplink
from hardy_parcel.work.uplink import ask, fetch, send

from .. import films
from ..dock_process import DockProcess

pytestmark = pytest.mark.children
QUICK = SentOver(rate_bps=400_000_000)


@pytest.fixture(scope="module")
def docks(tmp_path_factory: pytest.TempPathFactory) -> Iterator[DockProcess]:
    with DockProcess(tmp_path_factory.mktemp("docks")) as process:
        yield process


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return films.film(tmp_path_factory.mktemp("sent") / "Gale.mp4", width=640, height=360, seconds=1)


def task(docks: DockProcess, path: Path, *, to: str = "orrery-wide", line: SentOver = QUICK, words: Words = Words()) -> SendTask:
    return SendTask(path=path, sha256=sha256(path), destination_id=to, words=words, line=line, address=docks.address, secret=docks.secret)


def known(docks: DockProcess) -> uplink.DockLink:
    return uplink.DockLink(docks.address, docks.secret)


def sent(docks: DockProcess, path: Path, **how: object) -> str:
    return send(task(docks, path, **how), lambda url: None, lambda there, doing: None)


def settled(docks: DockProcess, parcel_id: str, fits: Callable[[DockedParcel], bool] = lambda one: one.settled) -> DockedParcel:
    ends = time.monotonic() + 90
    while time.monotonic() < ends:
        if fits(found := ask(known(docks), parcel_id)):
            return found
        time.sleep(0.05)
    raise AssertionError("waited in vain for the dock")


def test_what_is_sent_is_served_smallest_first_with_its_words(docks: DockProcess, film: Path, tmp_path: Path) -> None:
    words = Words(title="Gale at Skerry Point", description="Two lines,\nsaid plainly.", tags=("gale", "sea, rough"))
    told: list[int] = []
    parcel_id = send(task(docks, film, words=words), lambda url: None, lambda there, doing: told.append(there))
    assert told[-1] == film.stat().st_size
    found = settled(docks, parcel_id)
    assert (found.state, found.words, found.file_name, found.refused) == (DockState.READY, words, "Gale.mp4", ())
    assert [one.name for one in found.offered] == ["360p h264"]
    [one] = found.offered
    fetch(known(docks), parcel_id, one, tmp_path / one.file, lambda share: None)
    assert (tmp_path / one.file).stat().st_size == one.size_bytes
    assert [path.name for path in tmp_path.iterdir()] == [one.file]
    assert not list((docks.folder / "uploads").glob(f"{parcel_id}*"))


def test_what_has_arrived_is_not_sent_again_where_the_last_answer_was_lost(docks: DockProcess, film: Path) -> None:
    parcel_id = sent(docks, film)
    settled(docks, parcel_id)
    going_on = task(docks, film).model_copy(update={"upload_url": f"{docks.address}/uploads/{parcel_id}"})
    assert send(going_on, lambda url: pytest.fail("it was begun anew"), lambda there, doing: None) == parcel_id


def test_a_part_of_a_file_is_served_and_a_fetch_goes_on(docks: DockProcess, film: Path, tmp_path: Path) -> None:
    parcel_id = sent(docks, film)
    [one] = settled(docks, parcel_id).offered
    address = f"{docks.address}/parcels/{parcel_id}/files/{one.file}"
    part = httpx.get(address, headers={"range": "bytes=100-199", **docks.let_in})
    assert (part.status_code, len(part.content)) == (206, 100)
    (tmp_path / f".{one.file}.partial").write_bytes(httpx.get(address, headers=docks.let_in).content[:5000])
    heard: list[float] = []
    fetch(known(docks), parcel_id, one, tmp_path / one.file, heard.append)
    assert (tmp_path / one.file).read_bytes() == httpx.get(address, headers=docks.let_in).content
    assert heard[0] > 5000 / one.size_bytes


@pytest.mark.parametrize(("to", "said"), [("sprigg-upright", "Sprigg does not take VP9"), ("earshelf-audio", "Earshelf takes sound alone")])
def test_what_a_dock_does_not_take_is_refused_there(docks: DockProcess, tmp_path: Path, to: str, said: str) -> None:
    path = films.odd_film(tmp_path / "Gale.webm", codec="libvpx-vp9")
    found = settled(docks, sent(docks, path, to=to))
    assert found.state is DockState.REFUSED
    assert any(reason.startswith(said) for reason in found.refused), found.refused
    assert not found.offered


def test_what_is_no_film_is_refused_with_a_sentence(docks: DockProcess, tmp_path: Path) -> None:
    path = tmp_path / "Letter.mp4"
    path.write_bytes(b"not a film at all" * 4000)
    found = settled(docks, sent(docks, path))
    assert found.state is DockState.REFUSED
    assert "cannot be read as a film" in found.refused[0]


def test_nobody_takes_what_is_sent_nowhere(docks: DockProcess, film: Path) -> None:
    with pytest.raises(BadInput, match="no dock for nowhere"):
        sent(docks, film, to="nowhere")


def test_a_quota_counts_what_was_sent_before(tmp_path: Path, film: Path) -> None:
    [fernpost] = [sheet for sheet in shipped_sheets() if sheet.id == "fernpost"]
    size = film.stat().st_size
    small = fernpost.model_copy(update={
        "placements": tuple(place.model_copy(update={"quota_bytes": size * 3 // 2}) for place in fernpost.placements),
    })
    with DockProcess(tmp_path, sheets=[small]) as docks:
        to = f"fernpost-{small.placements[0].id}"
        assert settled(docks, sent(docks, film, to=to)).state is DockState.READY
        with pytest.raises(BadInput, match=r"are left of the .* that Fernpost takes in 7 days"):
            sent(docks, film, to=to)


def test_a_line_takes_its_time_and_is_taken_up_where_it_was_cut(
    docks: DockProcess, film: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Half of it is sent, then whoever sends goes away; who comes next sends the rest alone."""
    size = film.stat().st_size
    line = SentOver(rate_bps=size * 8 / 2)
    opened: list[str] = []

    def stop(there: int, doing: str) -> None:
        if there > size / 2:
            raise Cancelled("Stopped.")

    began = time.monotonic()
    with pytest.raises(Cancelled):
        send(task(docks, film, line=line), opened.append, stop)
    assert time.monotonic() - began > 0.7
    parcel_id = opened[0].rsplit("/", 1)[-1]
    half = ask(known(docks), parcel_id)
    assert half.state is DockState.ARRIVING
    assert size / 2 < half.received_bytes < size
    began = time.monotonic()
    going_on = task(docks, film, line=line).model_copy(update={"upload_url": opened[0]})
    assert send(going_on, opened.append, lambda there, doing: None) == parcel_id
    assert len(opened) == 1
    assert time.monotonic() - began < 2.5
    assert settled(docks, parcel_id).state is DockState.READY


def test_a_dock_that_dies_in_the_middle_goes_on(tmp_path: Path, film: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Killed while it receives, and again while it makes: nothing is sent twice, and what is served is whole."""
    size = film.stat().st_size
    with DockProcess(tmp_path) as docks:
        killed: list[int] = []

        def kill(there: int, doing: str) -> None:
            if there > size / 2 and not killed:
                killed.append(there)
                docks.kill()
                docks.start()

        parcel_id = send(task(docks, film, line=SentOver(rate_bps=size * 8)), lambda url: None, kill)
        assert killed
        docks.kill()
        with monkeypatch.context() as short:
            short.setattr(uplink, "PATIENCE_S", 0.0)
            with pytest.raises(DockAway):
                ask(known(docks), parcel_id)
        docks.start()
        found = settled(docks, parcel_id)
        assert (found.state, found.received_bytes) == (DockState.READY, size)
        assert [one.name for one in found.offered] == ["360p h264"]


def test_a_dock_that_does_not_answer_is_away(film: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(uplink, "PATIENCE_S", 0.2)
    monkeypatch.setattr(uplink, "PAUSE_S", 0.05)
    nowhere = SendTask(path=film, sha256=sha256(film), destination_id="orrery-wide", words=Words(), line=None, address="http://127.0.0.1:9")
    with pytest.raises(DockAway):
        send(nowhere, lambda url: None, lambda there, doing: None)


def test_a_file_that_was_changed_since_is_not_sent(docks: DockProcess, film: Path) -> None:
    with pytest.raises(NotFound, match="changed since it was packed"):
        send(task(docks, film).model_copy(update={"sha256": "0" * 64}), lambda url: None, lambda there, doing: None)


@pytest.mark.parametrize("host", ["docks.example", "127.0.0.1.docks.example", "127.0.0.1:1:2", "localhost:x", "[::1", "127.0.0.1:123456"])
def test_only_programs_of_this_machine_are_answered(docks: DockProcess, host: str) -> None:
    assert httpx.get(f"{docks.address}/docks", headers={"host": host, **docks.let_in}).status_code in (400, 403)


def test_no_page_and_nobody_without_the_secret_is_answered(docks: DockProcess) -> None:
    assert httpx.get(f"{docks.address}/docks", headers={"origin": docks.address, **docks.let_in}).status_code == 403
    for wrong in ({}, {"authorization": "Bearer"}, {"authorization": "Bearer no"}):
        for path in ("/docks", f"/parcels/{'0' * 32}", "/uploads"):
            assert httpx.get(docks.address + path, headers=wrong).status_code == 403
    assert "orrery-wide" in {one["destination_id"] for one in httpx.get(f"{docks.address}/docks", headers=docks.let_in).json()}
    for path in ("/parcels/" + "0" * 32, "/parcels/../etc", "/parcels/" + "0" * 32 + "/files/..%2fparcel.json"):
        assert httpx.get(docks.address + path, headers=docks.let_in).status_code in (404, 422)


def test_docks_show_who_they_are_and_nothing_goes_to_anybody_else(docks: DockProcess, film: Path) -> None:
    known(docks).check()
    shown = httpx.get(f"{docks.address}/docks", headers={NONCE: "once"})
    assert (shown.status_code, shown.headers[PROOF], docks.secret in str(shown.headers)) == (204, proof(docks.secret, "once"), False)
    heard: list[bytes] = []

    class Impostor(http.server.BaseHTTPRequestHandler):
        """Answers everything, and with a proof that it has seen."""

        def do_GET(self) -> None:
            heard.append(str(self.headers).encode())
            self.send_response(204)
            self.send_header(PROOF, shown.headers[PROOF])
            self.end_headers()

        do_POST = do_HEAD = do_PATCH = do_GET

        def log_message(self, *_: object) -> None:
            pass

    with http.server.HTTPServer(("127.0.0.1", 0), Impostor) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        there = task(docks, film).model_copy(update={"address": f"http://127.0.0.1:{server.server_port}"})
        with pytest.raises(DockAway, match="Another program"):
            send(there, lambda url: None, lambda there, doing: None)
        server.shutdown()
    assert len(heard) == 1
    assert docks.secret.encode() not in heard[0]


def test_what_does_not_fit_on_the_disk_waits(tmp_path: Path, film: Path) -> None:
    yard = Yard(tmp_path)
    free = shutil.disk_usage(tmp_path).free
    (tmp_path / "uploads" / f"{'a' * 32}.info").write_text(json.dumps({"size": free, "metadata": {}}))
    (tmp_path / "uploads" / ("a" * 32)).write_bytes(b"x" * 100)
    assert yard.awaited_bytes() == free - 100
    with DockProcess(tmp_path) as docks, pytest.raises(DockAway, match="do not fit"):
        send(task(docks, film), lambda url: None, lambda there, doing: pytest.fail("a byte went"))


def test_what_nobody_goes_on_with_is_given_up_after_an_hour(tmp_path: Path) -> None:
    yard = Yard(tmp_path)
    for name, age_s in (("a" * 32, UNFINISHED_S + 60), ("b" * 32, 60)):
        for file in (yard.uploads / name, yard.uploads / f"{name}.info"):
            file.write_text(json.dumps({"size": 9, "metadata": {}}))
            os.utime(file, (time.time() - age_s,) * 2)
    yard._end_unfinished()
    assert sorted(path.name for path in yard.uploads.iterdir()) == ["b" * 32, f"{'b' * 32}.info"]


def test_too_many_uploads_make_others_wait_instead_of_refusing_them(tmp_path: Path, film: Path) -> None:
    yard = Yard(tmp_path)
    for number in range(MOST_UNFINISHED):
        for file in (yard.uploads / f"{number:032x}", yard.uploads / f"{number:032x}.info"):
            file.write_text(json.dumps({"size": 9, "metadata": {}}))
    with DockProcess(tmp_path) as docks, pytest.raises(DockAway, match="too many uploads"):
        send(task(docks, film), lambda url: None, lambda there, doing: pytest.fail("a byte went"))


def test_a_sheet_of_the_folder_goes_before_the_shipped_one(tmp_path: Path, film: Path) -> None:
    """Altered behind the program's back: the dock does what its own sheet says, and too much is refused before a byte goes."""
    [orrery] = [sheet for sheet in shipped_sheets() if sheet.id == "orrery"]
    strict = orrery.model_copy(update={
        "placements": tuple(place.model_copy(update={"max_duration_s": 1, "max_bytes": 1000}) for place in orrery.placements),
    })
    with DockProcess(tmp_path, sheets=[strict]) as docks, pytest.raises(BadInput, match="more than the 1.0 kB that Orrery takes"):
        send(task(docks, film), lambda url: None, lambda there, doing: pytest.fail("a byte went"))


def test_an_unsteady_line_swings_between_its_shares() -> None:
    shares = [unsteady_share(at / 10) for at in range(60)]
    assert min(shares) == pytest.approx(0.25, abs=0.02)
    assert max(shares) == pytest.approx(1.25, abs=0.02)


def test_an_unsteady_line_is_cut_and_taken_up_again(tmp_path: Path, film: Path) -> None:
    with DockProcess(tmp_path, cut_every_s=0.4) as docks:
        size, told = film.stat().st_size, list[str]()
        line = SentOver(rate_bps=size * 8 / 1.2, unsteady=True)
        parcel_id = send(task(docks, film, line=line), lambda url: None, lambda there, doing: told.append(doing))
        assert "the line is cut, trying again" in told
        assert settled(docks, parcel_id).received_bytes == size


def test_metadata_that_is_spoilt_is_refused(docks: DockProcess) -> None:
    def begin(metadata: str) -> int:
        headers = {"tus-resumable": "1.0.0", "upload-length": "1000", "upload-metadata": metadata}
        return httpx.post(f"{docks.address}/uploads", headers=headers | docks.let_in).status_code

    def word(text: str) -> str:
        return base64.b64encode(text.encode()).decode()

    good = f"filename {word('Gale.mp4')},filetype {word('video/mp4')},dock {word('orrery-wide')}"
    assert begin(good) == 201
    assert begin(f"{good},title {word('x' * 400)}") == 400
    assert begin(f"filename {word('Gale.mp4')},filetype {word('video/mp4')}") == 404


def test_it_ends_with_whoever_started_it(tmp_path: Path) -> None:
    with DockProcess(tmp_path) as docks:
        docks.process.stdin.close()
        assert docks.process.wait(20) == 0
