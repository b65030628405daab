"""Giving a finished file its name: once, at once, and never in place of another file."""

from __future__ import annotations

import ctypes
import errno
import os
import stat
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from ..core.errors import NameTaken

RENAME_NOREPLACE = 1
AT_FDCWD = -100
CANNOT = (errno.EPERM, errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENOSYS, errno.EINVAL, errno.EMLINK)
"""What file systems and kernels answer to a kind of naming they do not know."""


def give_name(partial: Path, final: Path) -> None:
    """Give `partial`, on the same file system, its final name; raises NameTaken when that has come to exist, OSError otherwise.

    A link fails where the name exists. Where there are no links the kernel is asked to rename without replacing, and where it
    cannot, the name is reserved by making it, which only one can, before the file takes its place. Whoever may read the folder may then
    read the file.
    """
    _as_its_folder(partial, final.parent)
    for way in (_by_link, _by_kernel, _by_reserving):
        try:
            way(partial, final)
        except FileExistsError as error:
            raise NameTaken(f"A file {final.name} has appeared meanwhile.", "Nothing was overwritten; pack again.") from error
        except OSError as error:
            if error.errno not in CANNOT or way is _by_reserving:
                raise
        else:
            return


def give_free_name(partial: Path, choose: Callable[[], Path]) -> Path:
    """Give `partial` the name that `choose` finds free; asked again when somebody was faster. Returns the name it got."""
    while True:
        final = choose()
        try:
            give_name(partial, final)
        except NameTaken:
            continue
        return final


def _as_its_folder(path: Path, folder: Path) -> None:
    """What the service makes is private until it is put where it belongs: then it is as open as that place is."""
    with suppress(OSError):  # a file system without permissions
        path.chmod(stat.S_IRUSR | stat.S_IWUSR | (folder.stat().st_mode & (stat.S_IRGRP | stat.S_IROTH)))


def _by_link(partial: Path, final: Path) -> None:
    os.link(partial, final)
    partial.unlink()


def _by_kernel(partial: Path, final: Path) -> None:
    rename = getattr(ctypes.CDLL(None, use_errno=True), "renameat2", None)
    if rename is None:
        raise OSError(errno.ENOSYS, "renameat2")
    if rename(AT_FDCWD, os.fsencode(partial), AT_FDCWD, os.fsencode(final), RENAME_NOREPLACE) != 0:
        number = ctypes.get_errno()
        raise OSError(number, os.strerror(number), str(final))


def _by_reserving(partial: Path, final: Path) -> None:
    os.close(os.open(final, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666))
    try:
        partial.replace(final)
    except BaseException:
        final.unlink(missing_ok=True)
        raise


MARKED_EVERY_S = 60.0


def mark_used(*folders: Path) -> None:
    """Note that folders of the cache are used now, by their own modification time.

    When a file was read last is not asked for: many file systems do not write it down.
    """
    for folder in folders:
        with suppress(OSError):  # it has just been removed, or the disk takes nothing
            if time.time() - folder.stat().st_mtime > MARKED_EVERY_S:
                os.utime(folder)


def flush(path: Path) -> None:
    """A file's content, or a folder's entries, on the disk. Raises OSError."""
    opened = os.open(path, os.O_RDONLY)
    try:
        os.fsync(opened)
    finally:
        os.close(opened)


def write_anew(path: Path, text: str) -> None:
    """Write a text file whole or not at all, flushed to the disk, in place of one that may be there. Raises OSError."""
    partial = path.with_name(f".{path.name}.partial")
    try:
        with open(partial, "w", encoding="utf-8", newline="") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        _as_its_folder(partial, path.parent)
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)
