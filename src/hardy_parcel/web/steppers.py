"""Child processes that keep a film open for a while, so that the next of its pictures is there at once."""

from __future__ import annotations

import asyncio
import time
from dataclasses import dataclass, field

from ..core.errors import BadInput, HardyParcelError
from ..processes.client import Child
from ..processes.confine import paths_of
from ..processes.messages import FilmLookTask, Outcome, StepTask

PICTURE_LIMIT_S = 30
MOST_OPEN = 4
"""Films that are open at once: a master that is stepped through, and three files of one that are looked at beside each other."""
IDLE_S = 90


@dataclass
class _Open:
    """A child that steps through one film; `content` tells when its file is another one."""

    child: Child
    content: str
    used: float = field(default_factory=time.monotonic)
    lock: asyncio.Lock = field(default_factory=asyncio.Lock)


_steppers: dict[str, _Open] = {}
_opening = asyncio.Lock()


async def step_to(name: str, content: str, task: StepTask | FilmLookTask) -> Outcome:
    """What the child that has a film open answers to one wish; the first one opens it.

    Raises BadInput or what the child tells; a child that died is closed.
    """
    stepper = await _stepper(name, f"{content} {paths_of(task)}")
    async with stepper.lock:
        try:
            return await asyncio.shield(asyncio.to_thread(stepper.child.run, task, limit_s=PICTURE_LIMIT_S))
        except HardyParcelError as error:
            if error.code in ("reader_died", "too_slow"):
                await _close(name)
                raise BadInput("This picture could not be fetched: its file brought the reader down or held it up here.",
                               "Choose another place.", code=error.code) from error
            raise
        except asyncio.CancelledError:
            await _close(name)  # its answer would be taken for the next one
            raise


async def _stepper(name: str, content: str) -> _Open:
    async with _opening:
        await _close_idle()
        found = _steppers.get(name)
        if found and found.content == content and await asyncio.to_thread(lambda: found.child.alive):  # another process is asked
            found.used = time.monotonic()
            return found
        if found:
            await _close(name)
        idle = sorted((one for one in _steppers if not _steppers[one].lock.locked()), key=lambda one: _steppers[one].used)
        for one in idle[: max(0, len(_steppers) - MOST_OPEN + 1)]:
            await _close(one)
        _steppers[name] = _Open(child=await asyncio.to_thread(Child), content=content)
        return _steppers[name]


async def _close(name: str) -> None:
    stepper = _steppers.pop(name, None)
    if stepper:
        await asyncio.to_thread(stepper.child.close, grace_s=0)


async def _close_idle() -> None:
    for name, stepper in list(_steppers.items()):
        if time.monotonic() - stepper.used > IDLE_S and not stepper.lock.locked():
            await _close(name)


async def close_steppers() -> None:
    """End every stepper; on shutting down."""
    for name in list(_steppers):
        await _close(name)


async def tidy_steppers() -> None:
    """End steppers nobody uses any more, for ever."""
    while True:
        await asyncio.sleep(IDLE_S / 3)
        async with _opening:
            await _close_idle()
