"""Names are given once: whatever way the file system offers, no file is ever replaced."""

from __future__ import annotations

import errno
import os
import threading
from pathlib import Path

import pytest

from hardy_parcel.core.errors import FolderUnusable, NameTaken
from hardy_parcel.core.plan.naming import free_name
from hardy_parcel.store import files
from hardy_parcel.store.database import Database, migrate
from hardy_parcel.store.files import give_free_name, give_name
from hardy_parcel.store.places import Places
from hardy_parcel.work import inbox as inbox_module
from hardy_parcel.work.inbox import STIRRED_S, Inbox


def cannot(number: int = errno.EPERM):
    def refuse(*_: object) -> None:
        raise OSError(number, "not here")

    return refuse


@pytest.fixture(params=["links", "kernel", "neither"])
def system(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> str:
    """A file system with links, one without, and one whose kernel cannot rename without replacing either."""
    if request.param != "links":
        monkeypatch.setattr(os, "link", cannot())
    if request.param == "neither":
        monkeypatch.setattr(files, "_by_kernel", cannot(errno.EINVAL))
    return request.param


def test_a_file_gets_its_name(system: str, tmp_path: Path) -> None:
    partial = tmp_path / "a.partial"
    partial.write_bytes(b"film")
    give_name(partial, tmp_path / "a.mp4")
    assert [(p.name, p.read_bytes()) for p in tmp_path.iterdir()] == [("a.mp4", b"film")]


def test_a_file_that_has_appeared_meanwhile_stays(system: str, tmp_path: Path) -> None:
    partial, other = tmp_path / "a.partial", tmp_path / "a.mp4"
    partial.write_bytes(b"film")
    other.write_bytes(b"mine")
    with pytest.raises(NameTaken):
        give_name(partial, other)
    assert other.read_bytes() == b"mine"
    assert partial.read_bytes() == b"film"


def test_many_of_one_name_at_once_all_arrive(system: str, tmp_path: Path) -> None:
    def bring(number: int) -> None:
        partial = tmp_path / f"{number}.partial"
        partial.write_bytes(str(number).encode())
        start.wait()
        give_free_name(partial, lambda: tmp_path / free_name("Gale", "mp4", lambda name: (tmp_path / name).exists()))

    start = threading.Barrier(24)
    threads = [threading.Thread(target=bring, args=(number,)) for number in range(24)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(int(path.read_bytes()) for path in tmp_path.glob("Gale*.mp4")) == list(range(24))


def test_other_trouble_is_told_as_it_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "link", cannot(errno.ENOSPC))
    (tmp_path / "a.partial").write_bytes(b"film")
    with pytest.raises(OSError, match="not here") as told:
        give_name(tmp_path / "a.partial", tmp_path / "a.mp4")
    assert told.value.errno == errno.ENOSPC


def test_names_that_are_no_text_are_told_as_far_as_they_can_be_read(places: Places) -> None:
    (places.inbox / "Gale.mp4").write_bytes(b"")
    with open(os.fsencode(places.inbox) + b"/Sturm \xfc.mp4", "wb"):
        pass
    assert places.unusable_names() == ["Sturm \ufffd.mp4"]


def test_a_file_is_as_open_as_its_folder(tmp_path: Path) -> None:
    for mode, expected in ((0o700, 0o600), (0o755, 0o644), (0o1777, 0o644)):
        folder = tmp_path / oct(mode)
        folder.mkdir()
        folder.chmod(mode)
        partial = folder / "a.partial"
        partial.touch(0o600)
        give_name(partial, folder / "a.mp4")
        assert (folder / "a.mp4").stat().st_mode & 0o777 == expected


@pytest.mark.parametrize("own", ["inbox", "cache", "uploads"])
def test_parcels_do_not_go_where_masters_come_from(places: Places, own: str) -> None:
    folder = getattr(places, own)
    folder.mkdir(exist_ok=True)
    with pytest.raises(FolderUnusable, match="not for parcels"):
        places.output_folder(str(folder))


def test_parcels_do_not_go_into_the_data_folder_itself(places: Places) -> None:
    with pytest.raises(FolderUnusable, match="own data folder"):
        places.output_folder(str(places.data))
    (places.data / "films").mkdir()
    assert places.output_folder(str(places.data / "films")) == places.data / "films"


def test_an_inbox_is_looked_at_when_something_moves_there_and_rarely_else(places: Places) -> None:
    migrate(places.database)
    taken: list[Path] = []
    inbox = Inbox(Database(places.database), places, taken.append)
    assert inbox.due()
    inbox.watch()
    inbox.scan()
    inbox._scanned -= STIRRED_S
    assert not inbox.due(), "nothing moves"
    for _ in range(100):  # until the system's notifications are listened to, a file may come unsaid
        (places.inbox / "film.mp4").write_bytes(b"film" * 10)
        if inbox._stirred.wait(0.2):
            break
    assert inbox.due(), "a file came"
    inbox.scan()
    assert (taken, inbox._still) == ([], False), "it may still be written to"
    inbox.scan()
    assert [path.name for path in taken] == ["film.mp4"]
    inbox.close()


def test_an_inbox_that_nothing_is_said_of_is_looked_at_often(places: Places, monkeypatch: pytest.MonkeyPatch) -> None:
    migrate(places.database)
    inbox = Inbox(Database(places.database), places, lambda path: None)
    monkeypatch.setattr(inbox_module.watchfiles, "watch", lambda *_, **__: (_ for _ in ()).throw(OSError(28, "no watch left")))
    inbox._listen()
    inbox.scan()
    inbox._scanned -= STIRRED_S
    assert inbox.due()


def test_a_link_in_the_inbox_goes_no_further_than_allowed(tmp_path: Path) -> None:
    places = Places.of(tmp_path / "data")
    outside, inside = tmp_path / "outside", places.data / "films"
    for folder in (outside, inside):
        folder.mkdir()
        (folder / "film.mp4").write_bytes(b"film")
    (places.inbox / "out.mp4").symlink_to(outside / "film.mp4")
    (places.inbox / "in.mp4").symlink_to(inside / "film.mp4")
    taken: list[Path] = []
    inbox = Inbox(Database(places.database), places, taken.append)
    for _ in range(3):
        inbox.scan()
    assert {path.name for path in taken} == {"in.mp4"}
    assert places.stray_links() == ["out.mp4"]
