"""The small form of `make hostile`: damaged and misnamed files through a real service, with its worker and children."""

from __future__ import annotations

import random
from pathlib import Path

from benchmarks.hostile import DAMAGES, bases, corpus, put_through, strangers


def test_the_corpus_is_large_and_the_same_every_time(tmp_path: Path) -> None:
    whole = bases(tmp_path)
    assert len(whole) * len(DAMAGES) * 5 + len(list(strangers())) >= 300
    for damage in DAMAGES:
        once = damage(whole[".mp4"], random.Random(3))
        assert once == damage(whole[".mp4"], random.Random(3))
        assert once != whole[".mp4"]


def test_damaged_files_are_answered_and_leave_nothing_behind(tmp_path: Path) -> None:
    every = corpus(tmp_path / "corpus", each=1)
    some = [path for i, path in enumerate(sorted(every)) if i % 31 == 3]
    named = [tmp_path / "corpus" / name for name in ("playlist.mp4", "picture bomb.mp4", "boxes in boxes.mp4", "empty.mp4", "letter.mp4")]
    files = list(dict.fromkeys([*some, *named]))
    ends = put_through(files, tmp_path / "data")
    assert sum(ends.values()) == len(files)
    assert ends["unreadable"] >= len(named)
