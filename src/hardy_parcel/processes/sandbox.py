"""Shuts doors behind a process that reads files of unknown origin: files, other processes and the network are out of its reach.

Three means of the Linux kernel, each used where it is there:

    no new privileges   nothing that is started gets more rights (prctl(2))
    Landlock            only named files can be read and written, and where the kernel can, only one port be connected to (landlock(7))
    a system call filter   connect, execve, ptrace and their like fail (seccomp(2))

None can be taken back by the process. The calls are made through `ctypes`: there is no well-kept package for them.
"""

from __future__ import annotations

import ctypes
import errno
import os
import platform
import stat
import struct
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from ..core.values import Model

PR_SET_NO_NEW_PRIVS, PR_SET_SECCOMP, SECCOMP_MODE_FILTER = 38, 22, 2
CREATE_RULESET, ADD_RULE, RESTRICT_SELF = 444, 445, 446
"""System call numbers of Landlock, the same on every architecture."""
VERSION_FLAG, PATH_BENEATH, NET_PORT = 1, 1, 2
READ_FILE, READ_DIR, EXECUTE = 1 << 2, 1 << 3, 1 << 0
FILE_RIGHTS = EXECUTE | 1 << 1 | READ_FILE | 1 << 14 | 1 << 15
"""Rights that a single file can have: execute, write, read, truncate, device control."""
RIGHTS_BY_VERSION = {1: (1 << 13) - 1, 2: (1 << 14) - 1, 3: (1 << 15) - 1, 5: (1 << 16) - 1}
"""All rights to files that a version of Landlock knows; a version between knows those of the one below."""
DEVICES = 1 << 6 | 1 << 9 | 1 << 11
"""Making character devices, sockets and block devices, which nobody here needs."""
BIND_TCP, CONNECT_TCP, NET_VERSION = 1 << 0, 1 << 1, 4
SIGNALS, ABSTRACT_SOCKETS, SCOPE_VERSION = 1 << 1, 1 << 0, 6


@dataclass(frozen=True, slots=True, kw_only=True)
class _Machine:
    """What differs between architectures: how the filter names it, and numbers of system calls."""

    audit: int
    refused: tuple[int, ...]
    network: tuple[int, ...]


MACHINES = {
    # execve, execveat, ptrace, process_vm_readv and _writev, io_uring_setup, bpf; then socket, connect
    "x86_64": _Machine(audit=0xC000003E, refused=(59, 322, 101, 310, 311, 425, 321), network=(41, 42)),
    "aarch64": _Machine(audit=0xC00000B7, refused=(221, 281, 117, 270, 271, 425, 280), network=(198, 203)),
}
X32_BIT = 0x40000000
"""System calls of another numbering on x86_64; all are refused."""


class Confinement(Model):
    """What of it this system offers."""

    no_new_privileges: bool
    files: bool
    network_ports: bool
    system_calls: bool

    @property
    def whole(self) -> bool:
        """Whether every door can be shut."""
        return self.no_new_privileges and self.files and self.system_calls

    @property
    def sentence(self) -> str:
        """What of a child process is confined here, and what this system does not offer, as a creator reads it."""
        doors = (
            (self.files, "open or change files other than its own"),
            (self.system_calls, "connect anywhere"),
            (self.system_calls, "start programs"),
            (self.no_new_privileges, "gain rights"),
        )
        shut = [what for offered, what in doors if offered]
        left = [what for offered, what in doors if not offered]
        texts = [f"A process that reads a film cannot {_listed(shut)}."] if shut else []
        if left:
            texts.append(
                f"This system offers no way to keep it from trying to {_listed(left)}: open only films whose origin you trust."
            )
        return " ".join(texts)


def _listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Doors:
    """What stays open: files and folders that can be read, folders that can be written, and one local TCP port to connect to."""

    reads: tuple[Path, ...] = ()
    writes: tuple[Path, ...] = ()
    port: int | None = None


def shut(doors: Doors) -> None:
    """Shut all doors but these for this thread and everything that it starts. Raises OSError where the kernel refuses what it offers."""
    result = confinement()
    if result.no_new_privileges:
        _checked(_libc().prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0))
    if result.files:
        _restrict_files(doors)
    if result.system_calls:
        _filter_calls(network=doors.port is not None)


@cache
def confinement() -> Confinement:
    """What this system offers; asked without changing anything."""
    libc, version = _libc(), landlock_version()
    return Confinement(
        no_new_privileges=hasattr(libc, "prctl"),
        files=version > 0,
        network_ports=version >= NET_VERSION,
        system_calls=platform.machine() in MACHINES and Path("/proc/sys/kernel/seccomp/actions_avail").exists(),
    )


def landlock_version() -> int:
    """The version of Landlock that the kernel has; 0 where it has none or it is switched off."""
    if platform.system() != "Linux":
        return 0
    return max(0, _libc().syscall(CREATE_RULESET, None, ctypes.c_size_t(0), VERSION_FLAG))


@cache
def _libc() -> ctypes.CDLL:
    return ctypes.CDLL(None, use_errno=True)


def _checked(answer: int) -> int:
    if answer < 0:
        number = ctypes.get_errno()
        raise OSError(number, os.strerror(number))
    return answer


def _restrict_files(doors: Doors) -> None:
    version = landlock_version()
    every = RIGHTS_BY_VERSION[max(available for available in RIGHTS_BY_VERSION if available <= version)]
    ports = BIND_TCP | CONNECT_TCP if version >= NET_VERSION else 0
    scoped = SIGNALS | ABSTRACT_SOCKETS if version >= SCOPE_VERSION else 0
    attributes = struct.pack("=QQQ", every, ports, scoped)[
        : 24 if version >= SCOPE_VERSION else 16 if version >= NET_VERSION else 8
    ]
    rules = _checked(_libc().syscall(CREATE_RULESET, attributes, ctypes.c_size_t(len(attributes)), 0))
    try:
        for path in doors.reads:
            _allow(rules, path, (READ_FILE | READ_DIR) & every)
        for path in doors.writes:
            _allow(rules, path, every & ~(DEVICES | EXECUTE))
        if ports and doors.port is not None:
            _checked(_libc().syscall(ADD_RULE, rules, NET_PORT, struct.pack("=QQ", CONNECT_TCP, doors.port), 0))
        _checked(_libc().syscall(RESTRICT_SELF, rules, 0))
    finally:
        os.close(rules)


def _allow(rules: int, path: Path, rights: int) -> None:
    """Allow rights to a file, or to a folder and everything in it. What is not there needs no rule."""
    try:
        opened = os.open(path, os.O_PATH | os.O_CLOEXEC)
    except OSError as error:
        if error.errno in (errno.ENOENT, errno.ENOTDIR, errno.EACCES):
            return
        raise
    try:
        if not stat.S_ISDIR(os.fstat(opened).st_mode):
            rights &= FILE_RIGHTS
        _checked(_libc().syscall(ADD_RULE, rules, PATH_BENEATH, struct.pack("=Qi", rights, opened), 0))
    finally:
        os.close(opened)


def _filter_calls(*, network: bool) -> None:
    """Let these system calls fail with EPERM. Without `network` there are no sockets at all."""
    machine = MACHINES[platform.machine()]
    refused = machine.refused if network else (*machine.refused, *machine.network)
    load, equal, at_least, answer = 0x20, 0x15, 0x35, 0x06
    allow, refuse, kill = 0x7FFF0000, 0x00050000 | errno.EPERM, 0x80000000
    program = [
        (load, 0, 0, 4),  # the architecture
        (equal, 1, 0, machine.audit),
        (answer, 0, 0, kill),
        (load, 0, 0, 0),  # the number of the call
    ]
    if platform.machine() == "x86_64":
        program += [(at_least, 0, 1, X32_BIT), (answer, 0, 0, refuse)]
    for number in refused:
        program += [(equal, 0, 1, number), (answer, 0, 0, refuse)]
    program.append((answer, 0, 0, allow))
    steps = ctypes.create_string_buffer(b"".join(struct.pack("=HBBI", *step) for step in program))
    listed = struct.pack("@HP", len(program), ctypes.addressof(steps))
    _checked(_libc().prctl(PR_SET_SECCOMP, SECCOMP_MODE_FILTER, ctypes.c_char_p(listed), 0, 0))


SYSTEM_READS = (
    "/usr",
    "/lib",
    "/lib64",
    "/lib32",
    "/etc/ld.so.cache",
    "/etc/localtime",
    "/etc/mime.types",
    "/etc/hosts",
    "/etc/nsswitch.conf",
    "/dev/null",
    "/dev/zero",
    "/dev/urandom",
    "/proc/self",
    "/proc/cpuinfo",
    "/proc/meminfo",
    "/proc/stat",
    "/proc/sys/vm",
    "/sys/devices/system",
    "/sys/fs/cgroup",
)
"""What libraries read of the system while they work."""


def system_reads(prefixes: Iterable[str]) -> tuple[Path, ...]:
    """Files of the system and of Python itself, which hold nothing of anybody's."""
    result = [Path(path) for path in SYSTEM_READS]
    with suppress(OSError):
        result += [Path(prefix).resolve() for prefix in prefixes]
    return tuple(dict.fromkeys(result))
