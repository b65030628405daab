"""The border to PyAV: its errors become ours here, with the cause chained and none of its text shown."""

from __future__ import annotations

import errno
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import av

from ..core.errors import DiskFull, EncoderTrouble, FolderUnusable, NotFound, UnreadableMaster

FORMATS = (
    "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,mxf,dv,flv,asf,ogg,nut,ivf,m4v,mpegvideo,h264,hevc,gxf,"
    "wav,w64,aiff,mp3,aac,flac,caf"
)
"""Containers of films and sounds. Playlists, scripts and pictures are left out: they name other files, or are bombs."""


def open_film(path: Path) -> av.container.InputContainer:
    """Open a file of unknown origin: only a container of films, only this file."""
    options = {"format_whitelist": FORMATS, "protocol_whitelist": "file"}
    return av.open(str(path), metadata_errors="replace", container_options=options)


FULL_BYTES = 1 << 20
"""A disk with less room than this took no more of what was written."""


@contextmanager
def reading(path: Path) -> Iterator[None]:
    """Errors while a file is opened or decoded, as UnreadableMaster or NotFound."""
    try:
        yield
    except FileNotFoundError as error:
        raise NotFound(f"There is no file {path.name}.", "Check the name and the folder.") from error
    except IsADirectoryError as error:
        raise UnreadableMaster(f"{path.name} is a folder, not a film.", "Choose a file inside it.") from error
    except PermissionError as error:
        raise UnreadableMaster(f"{path.name} may not be read.", "Change its permissions or copy it.") from error
    except (av.FFmpegError, ValueError, EOFError) as error:
        raise UnreadableMaster(
            f"{path.name} cannot be read as a film: it is damaged, incomplete or something else.",
            "Export it again, or check that the copy finished.",
        ) from error


@contextmanager
def writing(path: Path) -> Iterator[None]:
    """Errors while a file is encoded or written, as DiskFull, FolderUnusable or EncoderTrouble."""
    try:
        yield
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise DiskFull(
                f"The disk is full, so {path.name} could not be written.", "Free some space; nothing half-written was kept."
            ) from error
        if error.errno in (errno.EACCES, errno.EROFS, errno.ENOENT, errno.ENOTDIR, errno.EPERM):
            raise FolderUnusable(f"{path.parent} cannot be written to.", "Choose another output folder.") from error
        raise _failed(path) from error
    except av.FFmpegError as error:
        raise _failed(path) from error


def _failed(path: Path) -> DiskFull | EncoderTrouble:
    """Libraries seldom say that a disk is full, so it is looked at: the one that is written to, and the one for what is only passing."""
    for folder in (path.parent, Path(tempfile.gettempdir())):
        with suppress(OSError):
            if shutil.disk_usage(folder).free < FULL_BYTES:
                return DiskFull(f"The disk of {folder} is full.", "Free some space; nothing half-written was kept.")
    return EncoderTrouble(f"Writing {path.name} failed.", "Try again; if it happens again, tell us.")
