"""Showing a file in its folder, where the desktop offers that over D-Bus."""

from __future__ import annotations

import logging
from pathlib import Path

from jeepney import DBusAddress, new_method_call
from jeepney.io.blocking import open_dbus_connection
from jeepney.wrappers import unwrap_msg

from .awake import PATIENCE_S, TROUBLE

FILES = DBusAddress("/org/freedesktop/FileManager1", bus_name="org.freedesktop.FileManager1", interface="org.freedesktop.FileManager1")
"""What file managers of several desktops answer to."""
log = logging.getLogger(__name__)


def show_in_folder(path: Path) -> bool:
    """Open the folder of a file with the file chosen in it; False where there is no desktop that does it."""
    try:
        with open_dbus_connection("SESSION") as bus:
            call = new_method_call(FILES, "ShowItems", "ass", ([path.as_uri()], ""))
            unwrap_msg(bus.send_and_get_reply(call, timeout=PATIENCE_S))
    except TROUBLE:
        log.info("no desktop shows folders")
        return False
    return True
