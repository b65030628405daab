"""What was computed lately, kept for as long as there is room; several threads of the service ask at once."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Hashable
from typing import Generic, TypeVar

Value = TypeVar("Value")


class Lately(Generic[Value]):
    """At most `most` values by their keys; the longest unused goes first."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, threading.Lock()
        self._kept: OrderedDict[Hashable, Value] = OrderedDict()

    def get(self, key: Hashable) -> Value | None:
        """What is kept under a key; None where nothing is, or is not any more."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def put(self, key: Hashable, value: Value) -> Value:
        """Keep a value, which is returned."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return value

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()
