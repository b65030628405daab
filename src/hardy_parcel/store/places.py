"""Where things are: the data folder with its inbox, outbox and cache, and what may be reached at all."""

from __future__ import annotations

import fcntl
import os
import secrets
import stat
from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from ..core.errors import FolderUnusable

SYSTEM = {"bin", "boot", "dev", "etc", "lib", "lib32", "lib64", "proc", "run", "sbin", "sys", "usr"}
ROOTS = {"home", "media", "mnt", "srv", "var", "opt", "tmp"}
"""Folders of the system, which are never opened to the page, and those that only hold others."""
KEY_BYTES, KEY_LENGTH = 24, 32
"""Random bytes of a start key, and the characters that they are written with."""
PRIVATE_FOLDER, PRIVATE_FILE = 0o700, 0o600
OWN_NAMES = ("hardy-parcel.sqlite3", "inbox", "outbox", "cache", "arrivals", "logs", "in-use", "working", "start-key")
"""How what stands in a data folder begins that is nothing else."""
MASTER_ENDINGS = {".mp4", ".mov", ".mkv", ".webm", ".avi", ".m4v", ".mxf", ".mts", ".m2ts", ".ts", ".mpg", ".mpeg", ".dv"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Places:
    """The data folder and the folders, beside it, that may be read and written; `added` are those that the creator added since. All are
    resolved."""

    data: Path
    allowed: tuple[Path, ...]
    added: list[Path] = field(default_factory=list, compare=False)

    @classmethod
    def of(cls, data: Path, *, also: tuple[Path, ...] = ()) -> Places:
        """Places under `data`, which is made; the creator's home is allowed besides, and whatever is in `also`."""
        data = data.expanduser().resolve()
        home = Path(os.path.expanduser("~")).resolve()
        places = cls(data=data, allowed=(data, home, *(folder.resolve() for folder in also)))
        places._make_private()
        for folder in (places.inbox, places.outbox, places.cache):
            try:
                folder.mkdir(parents=True, exist_ok=True)
            except OSError as error:
                raise FolderUnusable(f"{folder} cannot be made.", "Choose another data folder.") from error
        return places

    def _make_private(self) -> None:
        """The data folder, for its owner alone. One that was there and holds other things is left as it is."""
        try:
            ours = not self.data.exists() or all(path.name.startswith(OWN_NAMES) for path in self.data.iterdir())
            self.data.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
            if ours and not self.data.stat().st_mode & stat.S_ISVTX:
                self.data.chmod(PRIVATE_FOLDER)
        except OSError as error:
            raise FolderUnusable(f"{self.data} cannot be made or used.", "Choose another data folder.") from error

    def start_key(self) -> str:
        """What lets a page or a script in: whoever may read it in the data folder is the creator. Made once; delete it for another.

        It is written whole or not at all, and one that is too short to keep anybody out is replaced. Raises FolderUnusable where it cannot
        be written.
        """
        try:
            key = self.key_file.read_text(encoding="ascii").strip()
        except (OSError, ValueError):
            key = ""
        if len(key) >= KEY_LENGTH:
            return key
        partial = self.key_file.with_name(f"{self.key_file.name}.{secrets.token_hex(4)}")
        try:
            with open(partial, "x", opener=_privately, encoding="ascii") as file:
                file.write(key := secrets.token_urlsafe(KEY_BYTES))
                file.flush()
                os.fsync(file.fileno())
            partial.replace(self.key_file)
        except OSError as error:
            raise FolderUnusable(f"{self.key_file} cannot be written.", "Free some space, or choose another data folder.") from error
        finally:
            with suppress(OSError):
                partial.unlink(missing_ok=True)
        return key

    @property
    def key_file(self) -> Path:
        return self.data / "start-key"

    @property
    def database(self) -> Path:
        return self.data / "hardy-parcel.sqlite3"

    def claim(self, what: str = "in-use") -> int:
        """Take the data folder, or some part in it, for this process as long as it lives; the open file that holds it. Raises
        FolderUnusable where another one has it."""
        held = os.open(self.data / what, os.O_RDWR | os.O_CREAT, PRIVATE_FILE)  # not handed on to children
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            os.close(held)
            what = f"Another Hardy Parcel is serving from {self.data}."
            raise FolderUnusable(what, "Stop that one, or give another --data folder.") from error
        return held

    @property
    def inbox(self) -> Path:
        return self.data / "inbox"

    @property
    def outbox(self) -> Path:
        return self.data / "outbox"

    @property
    def cache(self) -> Path:
        return self.data / "cache"

    @property
    def scratch(self) -> Path:
        """Where every process of this data folder has its temporary files, each in a folder of its own."""
        return self.cache / "scratch"

    @property
    def uploads(self) -> Path:
        return self.cache / "uploads"

    def unusable_names(self) -> list[str]:
        """Names in the inbox, as far as they can be read, that are not valid text, so that nothing can be kept of them."""
        with suppress(OSError):
            return sorted(os.fsencode(name).decode("utf-8", "replace") for name in os.listdir(self.inbox) if not is_text(name))
        return []

    def stray_links(self) -> list[str]:
        """Films in the inbox that are links to where Hardy Parcel may not go, or nowhere."""
        found = []
        with suppress(OSError):
            for path in self.inbox.iterdir():
                if path.suffix.lower() in MASTER_ENDINGS and path.is_symlink() and is_text(path.name):
                    try:
                        self.within(path)
                    except FolderUnusable:
                        found.append(path.name)
        return sorted(found)

    def strip(self, strip_key: str) -> Path:
        return self.cache / "strips" / strip_key

    @property
    def rehearsals(self) -> Path:
        """Where reels, uploads and renditions of rehearsals are kept by their keys."""
        return self.cache / "rehearsals"

    @property
    def arrivals(self) -> Path:
        """Where what came back from platforms is kept, a folder for each sending."""
        return self.data / "arrivals"

    @property
    def looks(self) -> Path:
        return self.cache / "looks"

    def within(self, path: Path) -> Path:
        """`path` resolved, links followed; raises FolderUnusable when it lies outside what is allowed."""
        try:
            resolved = path.expanduser().resolve()
        except (RuntimeError, OSError, ValueError) as error:  # a home that nobody has, links in a circle
            raise FolderUnusable(f"{path} leads nowhere.", "Give the whole path.") from error
        every = (*self.allowed, *self.added)
        if not any(resolved == folder or folder in resolved.parents for folder in every):
            raise FolderUnusable(
                f"{path} lies outside the folders that Hardy Parcel may use.",
                f"Choose one inside {' or '.join(dict.fromkeys(str(folder) for folder in every))}, or allow another on Line & machine.",
            )
        return resolved

    def check_links(self, paths: Iterable[Path]) -> None:
        """Refuse links that lead outside of what is allowed by now, wherever they led when they were opened. Raises FolderUnusable."""
        for path in paths:
            if path.is_symlink():
                self.within(path)

    def allow(self, folders: Sequence[str]) -> None:
        """Let these folders be read and written beside those that were given at the start, and no others that were added before."""
        self.added[:] = [Path(folder) for folder in folders]

    def may_be_allowed(self, folder: str) -> Path:
        """A folder that the creator may add, resolved; raises FolderUnusable for one that is not there, is not absolute, or is the
        system's."""
        try:
            path = Path(folder).expanduser()
            found = path.resolve()
            there = path.is_absolute() and found.is_dir()
        except (OSError, ValueError, RuntimeError):
            there = False
        if not there:
            raise FolderUnusable("There is no such folder to allow.", "Give the whole path of a folder that is there.")
        if len(found.parts) < 2 or found.parts[1] in SYSTEM or (len(found.parts) < 3 and found.parts[1] in ROOTS):
            raise FolderUnusable(f"{found} is too much of this machine to be allowed.", "Give a folder inside it.")
        return found

    def output_folder(self, chosen: str | None) -> Path:
        """The folder that parcels are written to; raises FolderUnusable when it is missing or not writable."""
        folder = self.within(Path(chosen)) if chosen else self.outbox
        for own, what in ((self.inbox, "where masters come from"), (self.cache, "for what can be made again")):
            if folder == own or own in folder.parents:
                raise FolderUnusable(f"{folder} is {what}, not for parcels.", "Choose another output folder.")
        if folder == self.data.resolve():
            what = f"{folder} is Hardy Parcel's own data folder, where a parcel's name could be that of its files."
            raise FolderUnusable(what, "Choose another output folder, the outbox in it for example.")
        return usable_folder(folder)


def _privately(path: str, flags: int) -> int:
    return os.open(path, flags, PRIVATE_FILE)


def is_text(name: str) -> bool:
    """Whether a file name is valid UTF-8; the system hands other bytes over as lone surrogates."""
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True


def usable_folder(folder: Path) -> Path:
    """`folder` if it exists and can be written to, else FolderUnusable."""
    try:
        there = folder.is_dir()
    except (OSError, ValueError) as error:  # a name that no file system takes
        raise FolderUnusable("There can be no such folder.", "Choose another output folder.") from error
    if not there:
        raise FolderUnusable(f"There is no folder {folder}.", "Make it, or choose another output folder.")
    if not os.access(folder, os.W_OK | os.X_OK):
        raise FolderUnusable(f"{folder} cannot be written to.", "Change its permissions or choose another output folder.")
    return folder
