"""Keeping the machine awake, on a real message bus with a stand-in for the login manager."""

from __future__ import annotations

import os
import select
import shutil
import subprocess
import threading
from collections.abc import Iterator
from contextlib import suppress

import pytest
from jeepney import HeaderFields, MessageType, new_error, new_method_return
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import open_dbus_connection

from hardy_parcel.store import settings
from hardy_parcel.store.jobs import JobState
from hardy_parcel.store.places import Places
from hardy_parcel.store.settings import After
from hardy_parcel.work.awake import Awake
from hardy_parcel.work.desktop import show_in_folder

from .test_worker import Work, until

BUS = """<busconfig><listen>unix:tmpdir=/tmp</listen><policy context="default"><allow own="*"/><allow send_destination="*"/>
<allow receive_sender="*"/></policy></busconfig>"""


class LoginManager(threading.Thread):
    """Answers Inhibit with the writing end of a pipe, as the real one does, and counts what it is asked."""

    def __init__(self, address: str, *, refuses: bool = False) -> None:
        super().__init__(daemon=True)
        self.refuses, self.asked, self.pipes = refuses, [], []
        self._bus = open_dbus_connection(address, enable_fds=True)
        self._bus.send_and_get_reply(message_bus.RequestName("org.freedesktop.login1"), timeout=5)
        self.start()

    def run(self) -> None:
        with suppress(ConnectionError):  # the bus ends with the test
            self._answer()

    def _answer(self) -> None:
        while True:
            message = self._bus.receive()
            if message.header.message_type is not MessageType.method_call:
                continue
            name = message.header.fields[HeaderFields.member]
            self.asked.append((name, message.body))
            if self.refuses:
                self._bus.send(new_error(message, "org.freedesktop.DBus.Error.AccessDenied"))
            elif name == "Inhibit":
                reading, writing = os.pipe()
                self.pipes.append(reading)
                self._bus.send(new_method_return(message, "h", (writing,)))
                os.close(writing)
            else:
                self._bus.send(new_method_return(message))

    def held(self) -> int:
        """Inhibitors that are still open: the reading end of a pipe becomes readable when its other end is closed."""
        return sum(not select.select([pipe], [], [], 0.5)[0] for pipe in self.pipes)


@pytest.fixture
def bus(tmp_path, monkeypatch) -> Iterator[str]:
    if not shutil.which("dbus-daemon"):
        pytest.skip("no message bus is installed")
    config = tmp_path / "bus.conf"
    config.write_text(BUS)
    daemon = subprocess.Popen(
        ["dbus-daemon", f"--config-file={config}", "--print-address", "--nofork"], stdout=subprocess.PIPE, text=True
    )
    address = daemon.stdout.readline().strip()
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", address)
    yield address
    daemon.terminate()
    daemon.wait(timeout=10)


def test_sleep_is_held_off_while_it_is_wished_and_no_longer(bus: str) -> None:
    manager, awake = LoginManager(bus), Awake()
    assert awake.offered is None
    awake.hold(True)
    awake.hold(True)
    assert (awake.offered, manager.held(), len(manager.asked)) == (True, 1, 1)
    assert manager.asked[0] == ("Inhibit", ("sleep:idle", "Hardy Parcel", "Films are being packed", "block"))
    awake.hold(False)
    assert manager.held() == 0
    awake.hold(True)
    assert manager.held() == 1


def test_it_lets_go_before_the_machine_sleeps(bus: str) -> None:
    manager, awake = LoginManager(bus), Awake()
    awake.hold(True)
    assert awake.sleep()
    assert manager.asked[-1] == ("Suspend", (False,))
    assert manager.held() == 0


def test_a_worker_holds_sleep_off_while_it_packs_and_sleeps_once_after_it(bus: str, places: Places, gale, gale_facts) -> None:
    manager, work = LoginManager(bus), Work(places)
    try:
        settings.change_dispatch(work.database, after=After.SLEEP)
        assert work.ended(work.pack(gale, gale_facts)).state is JobState.DONE
        until(lambda: settings.load_dispatch(work.database).after is After.NOTHING, "the wish to be taken up")
        until(lambda: len(manager.asked) == 2, "the machine to be put to sleep")
        assert [name for name, _ in manager.asked] == ["Inhibit", "Suspend"]
        assert manager.held() == 0
        assert settings.load_dispatch(work.database).kept_awake is True
    finally:
        work.stop()


def test_a_system_that_refuses_is_asked_once(bus: str) -> None:
    manager, awake = LoginManager(bus, refuses=True), Awake()
    awake.hold(True)
    awake.hold(True)
    assert (awake.offered, len(manager.asked)) == (False, 1)
    assert not awake.sleep()


def test_a_bus_without_a_login_manager_and_no_bus_at_all(bus: str, monkeypatch) -> None:
    awake = Awake()
    awake.hold(True)
    assert awake.offered is False
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", "unix:path=/nowhere/at/all")
    awake = Awake()
    awake.hold(True)
    awake.hold(False)
    assert (awake.offered, awake.sleep()) == (False, False)


def test_a_desktop_is_asked_to_show_a_file(bus: str, tmp_path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A stand-in for a file manager on a real bus."""
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", bus)
    file = tmp_path / "A film.mp4"
    assert not show_in_folder(file), "nobody is there yet"
    manager = open_dbus_connection(bus)
    manager.send_and_get_reply(message_bus.RequestName("org.freedesktop.FileManager1"), timeout=5)
    asked: list[tuple] = []

    def answer() -> None:
        while not asked:
            message = manager.receive(timeout=20)
            if message.header.message_type is MessageType.method_call:
                asked.append(message.body)
                manager.send(new_method_return(message))

    answering = threading.Thread(target=answer)
    answering.start()
    assert show_in_folder(file)
    answering.join(timeout=20)
    manager.close()
    assert asked == [([file.as_uri()], "")]
