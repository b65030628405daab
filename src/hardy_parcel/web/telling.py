"""Answers that many pages ask for again and again: told again for as long as nothing of what they show has changed."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Generic, TypeVar

from ..core.lately import Lately
from ..store.database import KEPT_CHANGES, Changed, Database, changed_since

Value = TypeVar("Value")


@dataclass(slots=True)
class ToldAnswer(Generic[Value]):
    """What was told, and the number of the last change up to which it is known to hold."""

    holds_at: int
    value: Value


class Telling(Generic[Value]):
    """At most `most` answers by their keys, of any database."""

    def __init__(self, most: int) -> None:
        self._told: Lately[ToldAnswer[Value]] = Lately(most)

    def of(
        self, database: Database, key: tuple[Hashable, ...], make: Callable[[], Value], shows: Callable[[Changed, Value], bool]
    ) -> Value:
        """The answer as it was told last, unless anything was changed since that it `shows`; it is made anew then."""

        def first() -> ToldAnswer[Value]:
            now = database.revision()  # what is changed while the answer is made may be in it or not
            return ToldAnswer(now, make())

        def still(told: ToldAnswer[Value]) -> bool:
            now = database.revision()
            if now - told.holds_at > KEPT_CHANGES or any(shows(one, told.value) for one in changed_since(database, told.holds_at)):
                return False
            told.holds_at = now
            return True

        return self._told.of((database.path, *key), first, still=still).value
