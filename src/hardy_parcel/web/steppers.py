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
class OpenFilm:
    """A child that steps through one film; `content` tells when its file is another one."""

    child: Child
    content: str
    used: float = field(default_factory=time.monotonic)
    lock: asyncio.Lock = field(default_factory=asyncio.Lock)


class Steppers:
    """The films that one service keeps open, by names of their own."""

    def __init__(self) -> None:
        self.open: dict[str, OpenFilm] = {}
        self._opening = asyncio.Lock()

    async def step_to(self, name: str, content: str, task: StepTask | FilmLookTask) -> Outcome:
        """What the child that has a film open answers to one wish; the first one opens it.

        Raises BadInput or what the child tells; a child that died is closed.
        """
        stepper = await self._stepper(name, f"{content} {paths_of(task)}")
        async with stepper.lock:
            try:
                return await asyncio.shield(asyncio.to_thread(stepper.child.run, task, limit_s=PICTURE_LIMIT_S))
            except HardyParcelError as error:
                if error.code in ("reader_died", "too_slow"):
                    await self._close(name)
                    raise BadInput(
                        "This picture could not be fetched: its file brought the reader down or held it up here.",
                        "Choose another place.",
                        code=error.code,
                    ) from error
                raise
            except asyncio.CancelledError:
                await self._close(name)  # its answer would be taken for the next one
                raise

    async def close(self) -> None:
        """End every stepper; on shutting down."""
        for name in list(self.open):
            await self._close(name)

    async def tidy(self) -> None:
        """End steppers nobody uses any more, for ever."""
        while True:
            await asyncio.sleep(IDLE_S / 3)
            async with self._opening:
                await self._close_idle()

    async def _stepper(self, name: str, content: str) -> OpenFilm:
        async with self._opening:
            await self._close_idle()
            film = self.open.get(name)
            if (
                film and film.content == content and await asyncio.to_thread(lambda: film.child.alive)
            ):  # another process is asked
                film.used = time.monotonic()
                return film
            if film:
                await self._close(name)
            idle = sorted(
                (key for key, other in self.open.items() if not other.lock.locked()),
                key=lambda key: self.open[key].used,
            )
            for key in idle[: max(0, len(self.open) - MOST_OPEN + 1)]:
                await self._close(key)
            self.open[name] = OpenFilm(child=await asyncio.to_thread(Child), content=content)
            return self.open[name]

    async def _close(self, name: str) -> None:
        stepper = self.open.pop(name, None)
        if stepper:
            await asyncio.to_thread(stepper.child.close, grace_s=0)

    async def _close_idle(self) -> None:
        for name, stepper in list(self.open.items()):
            if time.monotonic() - stepper.used > IDLE_S and not stepper.lock.locked():
                await self._close(name)
