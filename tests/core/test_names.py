"""No two modules and no two public classes of the program have one name, so that each is found at once."""

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
