"""python -m hardy_parcel.web.schema: print the OpenAPI document, from which the front end's types are made."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

from ..store.places import Places
from .app import make_app


def document() -> dict[str, Any]:
    """The OpenAPI document of the service."""
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        return make_app(Places.of(Path(scratch)), key="", worker=False).openapi()


if __name__ == "__main__":
    print(json.dumps(document(), indent=1))
