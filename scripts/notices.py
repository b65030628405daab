"""Writes what the page and the product are made of, with versions and licences.  python scripts/notices.py FILE

The page's packages are those that npm installed without its tools; the product's are those of requirements.txt. Texts that several
share stand once.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
from dataclasses import dataclass, field
from importlib import metadata
from pathlib import Path

ROOT = Path(__file__).parents[1]
LICENCE = re.compile(r"(?i)^(licen[cs]e|copying|notice|ofl)")


@dataclass(frozen=True)
class Part:
    """A package: its name, version, what it is licensed under by its own word, and the texts it brings."""

    name: str
    version: str
    licence: str
    texts: list[str] = field(default_factory=list)


def of_the_page(frontend: Path) -> list[Part]:
    """What the page is built of, fonts among it."""
    words = subprocess.run(
        ["npm", "ls", "--omit=dev", "--all", "--parseable"],
        cwd=frontend,
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    parts = []
    for folder in sorted({Path(line) for line in words.splitlines()[1:] if line}):
        about = json.loads((folder / "package.json").read_text())
        texts = [
            path.read_text(errors="replace")
            for path in sorted(folder.iterdir())
            if path.is_file() and LICENCE.match(path.name)
        ]
        parts.append(Part(about["name"], about["version"], str(about.get("license", "see its text")), texts))
    return parts


def of_the_product(requirements: Path) -> list[Part]:
    """The Python packages that the product runs on."""
    parts = []
    for name in re.findall(r"(?m)^([A-Za-z0-9_.-]+)(?:\[[^]]*\])?==", requirements.read_text()):
        try:
            result = metadata.distribution(name)
        except metadata.PackageNotFoundError:  # of another system, or only needed to build one of the others
            continue
        files = [file for file in result.files or [] if LICENCE.match(file.name) and ".dist-info" in str(file)]
        texts = [Path(str(file.locate())).read_text(errors="replace") for file in files]
        parts.append(Part(result.metadata["Name"], result.version, _licence(result), texts))
    return parts


def _licence(result: metadata.Distribution) -> str:
    named = result.metadata.get("License-Expression") or (result.metadata.get("License") or "").split("\n")[0][:80]
    classed = [
        item.rsplit(" :: ", 1)[-1]
        for item in result.metadata.get_all("Classifier") or []
        if item.startswith("License ::")
    ]
    return named or ", ".join(classed) or "see its text"


def written(page: list[Part], product: list[Part]) -> str:
    """The whole text: two lists, then every licence with whom it is of."""
    lines = ["What Hardy Parcel is made of", "", "Hardy Parcel itself is under GPL-3.0-or-later.", ""]
    of: dict[str, list[str]] = {}
    for heading, parts in (("In the page", page), ("In the product", product)):
        lines += [heading, ""]
        for part in parts:
            lines.append(f"  {part.name} {part.version}: {part.licence}")
            for text in part.texts:
                of.setdefault(text.strip(), []).append(part.name)
        lines.append("")
    for text, names in of.items():
        lines += ["-" * 78, f"Of {', '.join(dict.fromkeys(names))}:", "", text, ""]
    return "\n".join(lines)


if __name__ == "__main__":
    target = Path(sys.argv[1])
    target.write_text(written(of_the_page(ROOT / "frontend"), of_the_product(ROOT / "requirements.txt")))
