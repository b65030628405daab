"""Each benchmark that `make bench` runs still runs, in a small form, and prints its figures."""

from __future__ import annotations

import importlib
import re
from pathlib import Path

import pytest

MAKEFILE = Path(__file__).parent.parent / "Makefile"
NAMES = re.findall(
    r"-m benchmarks\.(\w+)$", MAKEFILE.read_text().split("\nbench:", 1)[1].split("\n\n", 1)[0], re.MULTILINE
)


def test_all_of_them_are_here() -> None:
    assert len(NAMES) >= 11


@pytest.mark.children
@pytest.mark.parametrize("name", NAMES)
def test_it_runs_and_prints_what_it_measured(
    name: str, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("sys.argv", [name])
    importlib.import_module(f"benchmarks.{name}").main(small=True)
    words = capsys.readouterr().out
    assert re.search(r"\d", words)
    assert "nan" not in words
