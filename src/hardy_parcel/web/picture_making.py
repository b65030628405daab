"""Pictures that are made in child processes: whoever asks for another station of the same picture waits for the same child."""

from __future__ import annotations

import asyncio
from pathlib import Path

from ..processes.client import in_child
from ..processes.messages import LadderMade, LadderTask, LookTask

PICTURE_LIMIT_S = 60
AT_ONCE = 2


class PictureMaking:
    """Pictures that are being made for one service, by their folders."""

    def __init__(self) -> None:
        self._places = asyncio.Semaphore(AT_ONCE)
        self._making: dict[Path, asyncio.Task[None]] = {}

    async def make(self, task: LookTask | LadderTask) -> None:
        """Make the pictures of a folder, or wait until they are made."""
        making = self._making.get(task.folder)
        if making is None:
            making = self._making[task.folder] = asyncio.create_task(self._make(task))
            making.add_done_callback(lambda _: self._making.pop(task.folder, None))
        await asyncio.shield(making)

    async def _make(self, task: LookTask | LadderTask) -> None:
        """Decode in a child process, which may crash or hang without harm to the service."""
        async with self._places:
            result = await asyncio.to_thread(in_child, task, limit_s=PICTURE_LIMIT_S)
            if isinstance(result, LadderMade):  # last, so that a ladder which was begun only is made again
                await asyncio.to_thread((task.folder / "ladder.json").write_text, result.model_dump_json())
