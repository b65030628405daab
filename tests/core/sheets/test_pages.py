"""A corpus of made-up help pages: whatever is taken unasked is true, and nothing that a page says is lost in silence."""

from __future__ import annotations

from collections import Counter

import pytest

from hardy_parcel.core.sheets.pasting import AskedLine, Pasted, paste
from hardy_parcel.core.sheets.stated_limits import StatedLimits

from .pages import PAGES

LIMITS = {
    "max_bytes": "bytes",
    "max_duration_s": "seconds",
    "max_long_side_px": "long",
    "max_short_side_px": "short",
    "max_frame_rate": "fps",
    "codecs": "codecs",
    "containers": "containers",
    "sound_codecs": "sound_codecs",
}


def _limits(limits: StatedLimits) -> set[str]:
    given = limits.given().items()
    return {f"{LIMITS[name]} {' '.join(value) if isinstance(value, tuple) else value}" for name, value in given}


def statements(found: Pasted | AskedLine) -> set[str]:
    texts = _limits(found.limits)
    for row in found.rows:
        low, high = f"{row.low_bps / 1e6:g}", f"{row.high_bps / 1e6:g}"
        words = [str(row.short_side_px), row.frame_rate_class[0], low if low == high else f"{low}-{high}"]
        words += [row.codec] if row.codec != "h264" else []
        texts.add(" ".join([*words, *(["hdr"] if row.dynamic_range == "hdr" else [])]))
    for heard in found.sound:
        channels = {None: "sound", 1: "mono", 2: "stereo"}[heard.channels]
        texts.add(" ".join([channels, *([heard.codec] if heard.codec else []), f"{heard.high_bps / 1e3:g}"]))
    return texts


def outcome(text: str, truth: str) -> str:
    """`u`, `a` or `r` as of the corpus, or what was wrong without a word."""
    result = paste(text)
    true = {item.strip() for item in truth.split(";") if item.strip()}
    sure, asked = statements(result), {item for question in result.asked for item in statements(question)}
    if sure - true:
        return f"taken without asking: {sorted(sure - true)}"
    if true - sure - asked and not result.not_understood:
        return f"lost without a word: {sorted(true - sure - asked)}"
    if result.asked:
        return "a"
    return "u" if sure else "r"


def test_there_are_eighty_pages_and_none_twice() -> None:
    assert len(PAGES) == len({text for _, text, _ in PAGES}) == 80


@pytest.mark.parametrize(("kind", "text", "truth"), PAGES)
def test_each_page_is_understood_asked_about_or_refused(kind: str, text: str, truth: str) -> None:
    assert outcome(text, truth) == kind


def test_the_four_counts() -> None:
    counts = Counter(outcome(text, truth) for _, text, truth in PAGES)
    assert {kind: counts.pop(kind) for kind in "uar"} == dict(Counter(kind for kind, _, _ in PAGES))
    assert not counts, "wrong without a word"
