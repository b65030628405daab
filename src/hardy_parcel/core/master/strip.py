"""The poster strip: how many pictures, and in which order they are made so that the whole film shows early."""

from __future__ import annotations

from .facts import MasterFacts

STRIP_PICTURES = 24


def strip_key(facts: MasterFacts) -> str:
    """What the strip's pictures depend on: the content, and how the creator says that its colours are to be read."""
    reading = facts.mending.colour
    return f"{facts.content_id}-{reading.value.replace(' ', '-')}" if reading else facts.content_id


def strip_order(count: int = STRIP_PICTURES) -> tuple[int, ...]:
    """Numbers 0 … count − 1, first far apart and then between: the middles of ever finer parts."""
    order: list[int] = []
    parts = 1
    while len(order) < count:
        for part in range(parts):
            number = min(count - 1, (2 * part + 1) * count // (2 * parts))
            if number not in order:
                order.append(number)
        if parts >= 2 * count:
            order += [n for n in range(count) if n not in order]
        parts *= 2
    return tuple(order[:count])
