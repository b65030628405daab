"""Sayings by the API: tried on a film, settled, and summed up."""

from __future__ import annotations

import pytest

from ..service import Served


def told(served: Served, path: str) -> dict[str, dict]:
    found = served.http.get(f"{path}/sayings").raise_for_status().json()
    return {one["saying"]["code"]: one for one in found["sayings"]}


@pytest.mark.timeout(290)
def test_a_saying_is_tried_and_its_verdict_kept(served: Served, gale_master: dict) -> None:
    # a size of its own, which no other test has tried
    served.show_only(gale_master, ["orrery-wide"], {"orrery-wide": {"effort": "quick", "short_side_px": 92}})
    path = served.parcel_path(gale_master)
    before = told(served, path)
    assert before["double"]["verdict"]["outcome"] == "not tried yet"
    assert before["double"]["everywhere"] == ""
    jobs = served.http.post(f"{path}/sayings/double/try").raise_for_status().json()["jobs"]
    assert jobs
    assert told(served, path)["double"]["trying"]
    served.until(
        f"{path}/sayings", lambda found: [one for one in found["sayings"] if one["saying"]["code"] == "double" and not one["trying"]],
        "both ways to be tried", 240,
    )
    after = told(served, path)
    verdict = after["double"]["verdict"]
    assert verdict["outcome"] != "not tried yet"
    assert verdict["evidence"] == "probed"
    assert len(verdict["seen"]) == 3
    assert after["double"]["everywhere"] == "", "one film is no sum"
    assert after["triple"]["verdict"]["outcome"] != "not tried yet", "other rates of one curve are known with it"
    sentence = served.http.get(f"{path}/sayings").json()["sentence"]
    assert sentence.startswith("On this film")
    assert served.http.post(f"{path}/sayings/double/try").json()["jobs"] == [], "all is known"
    sibling = served.http.post(f"{path}/siblings", json={"part": {"video_bitrate_bps": after["double"]["choices"]["video_bitrate_bps"]}})
    assert sibling.status_code == 201
    served.as_new(gale_master)


def test_what_cannot_be_tried_says_why(served: Served, gale_master: dict) -> None:
    served.show_only(gale_master, ["sprigg-upright", "earshelf-audio"])
    path = served.parcel_path(gale_master, "sprigg-upright")
    assert told(served, path)["as_it_is"]["why_not"]
    refused = served.http.post(f"{path}/sayings/as_it_is/try")
    assert (refused.status_code, refused.json()["code"]) == (422, "says_nothing")
    assert served.http.post(f"{path}/sayings/nonsense/try").status_code == 404
    assert told(served, served.parcel_path(gale_master, "earshelf-audio")) == {}
    served.as_new(gale_master)
