"""Habits of the whole program: one thing a name, and decisions that read fields instead of reasons."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path

import hardy_parcel

ROOT = Path(hardy_parcel.__file__).parent


def test_no_two_modules_or_classes_of_one_name() -> None:
    modules, classes = defaultdict(set), defaultdict(set)
    for path in ROOT.rglob("*.py"):
        if path.name not in ("__init__.py", "__main__.py"):
            modules[path.stem].add(path)
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                classes[node.name].add(path)
    assert {name: paths for name, paths in modules.items() if len(paths) > 1} == {}
    assert {name: paths for name, paths in classes.items() if len(paths) > 1} == {}


def test_no_decision_reads_a_reason() -> None:
    """A reason is for reading: nothing branches on its code, and no sentence is taken apart again."""
    found = []
    for path in ROOT.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Attribute) or not isinstance(node.value, ast.Attribute):
                continue
            if (node.value.attr, node.attr) == ("because", "code") or (
                node.value.attr == "sentence" and node.attr in ("split", "partition", "startswith", "endswith")
            ):
                found.append(f"{path.relative_to(ROOT)}:{node.lineno}")
    page = ROOT.parents[1] / "frontend" / "src"
    found += [path.name for path in page.rglob("*.vue") if "because.code" in path.read_text()]
    assert found == []
