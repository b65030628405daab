"""A link in the inbox that is switched after its film was opened leads nowhere that was not allowed."""

from __future__ import annotations

import json
from pathlib import Path

from .. import films
from ..service import Served
from .test_api import problem


def test_a_link_that_is_switched_is_neither_shown_nor_packed(served: Served, tmp_path_factory) -> None:
    outside = tmp_path_factory.mktemp("outside") / "Secret.mp4"
    inside = served.places.data / "films"
    inside.mkdir(exist_ok=True)
    films.film(inside / "Switched.mp4", width=192, height=108, seconds=1)
    films.film(outside, width=192, height=108, seconds=1)
    link = served.places.inbox / "Switched.mp4"
    link.symlink_to(inside / "Switched.mp4")
    master = served.master("Switched.mp4")
    picture = f"/masters/{master['id']}/film"
    shown = served.http.get(picture)
    path = served.parcel_path(master, "fernpost-reel")
    plan_key = served.http.get(path).json()["summary"]["plan_key"]
    _switch(link, outside)
    job = served.http.post(f"{path}/pack", json={"plan_key": plan_key})
    if job.status_code < 400:
        ended = served.ended(job.json())
        assert ended["state"] == "failed"
        assert "outside the folders" in json.dumps(ended["problem"])
    else:
        assert "outside the folders" in problem(job, 422, "folder_unusable")
    assert shown.status_code == 200
    assert "outside the folders" in problem(served.http.get(picture), 422, "folder_unusable")
    assert not list(served.places.outbox.glob("Switched*"))


def _switch(link: Path, target: Path) -> None:
    other = link.with_name("Switched.link")
    other.symlink_to(target)
    other.replace(link)
