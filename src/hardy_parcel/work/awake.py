"""Keeps the machine awake while it packs, and lets it sleep afterwards, where the system offers both over D-Bus."""

from __future__ import annotations

import logging
import os
from contextlib import suppress

from jeepney import DBusAddress, DBusErrorResponse, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection
from jeepney.wrappers import unwrap_msg

LOGIN = DBusAddress("/org/freedesktop/login1", bus_name="org.freedesktop.login1", interface="org.freedesktop.login1.Manager")
"""The login manager, whose methods Inhibit and Suspend are those of systemd-logind and of what stands in for it."""
PATIENCE_S = 2.0
TROUBLE = (OSError, KeyError, ValueError, DBusErrorResponse, TimeoutError)
"""No bus, no login manager on it, or one that refuses."""
log = logging.getLogger(__name__)


class Awake:
    """Holds the system's sleep off while `hold` is wished. `offered` is None until it was tried."""

    def __init__(self) -> None:
        self._held: int | None = None
        self.offered: bool | None = None

    def hold(self, wished: bool, why: str = "Films are being packed") -> None:
        """Hold sleep off, or let go of it; where the system does not offer that, nothing happens but that `offered` says so."""
        if wished and self._held is None and self.offered is not False:
            self._held = self._inhibitor(why)
            self.offered = self._held is not None
        elif not wished and self._held is not None:
            os.close(self._held)
            self._held = None

    def sleep(self) -> bool:
        """Let the machine sleep; False where that cannot be had."""
        self.hold(False)
        try:
            with _bus() as bus:
                unwrap_msg(bus.send_and_get_reply(new_method_call(LOGIN, "Suspend", "b", (False,)), timeout=PATIENCE_S))
        except TROUBLE:
            log.warning("the system does not let itself be put to sleep")
            return False
        return True

    def _inhibitor(self, why: str) -> int | None:
        """The open file that holds sleep off for as long as it is open."""
        with suppress(*TROUBLE), _bus() as bus:
            call = new_method_call(LOGIN, "Inhibit", "ssss", ("sleep:idle", "Hardy Parcel", why, "block"))
            (held,) = unwrap_msg(bus.send_and_get_reply(call, timeout=PATIENCE_S))
            return int(held.to_raw_fd())
        log.info("the system offers no way to keep it awake")
        return None


def _bus() -> DBusConnection:
    return open_dbus_connection("SYSTEM", enable_fds=True)
