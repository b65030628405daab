"""Probing over the service: asked for by what is opened, kept, shown in lanes and on the bench, switched off, giving way."""

from __future__ import annotations

import pytest

from hardy_parcel.planned import probes

from ..service import Served

LAPTOP = ("laptop", "good")


def lane(served: Served, master: dict) -> dict:
    return served.lanes(master)[0]


def ended(served: Served, master: dict) -> dict:
    """The lane, once nothing is tried for it any more."""
    path = f"/masters/{master['id']}/lanes"
    served.until(path, lambda found: not any(view["probing"] for view in found["lanes"][:1]), "the end", 240)
    return lane(served, master)


def seen_by_all(view: dict) -> list[dict]:
    return view["summary"]["seen"]


def seen(view: dict) -> dict:
    return next(one for one in seen_by_all(view) if (one["screen"], one["line"]) == LAPTOP)


@pytest.mark.timeout(290)
def test_a_lane_tells_what_arrives_at_every_rate_once_moments_were_tried(served: Served, trying: dict) -> None:
    before = lane(served, trying)
    assert (before["lacks_probes"], before["probing"], seen(before)["at"], before["recommended"]) == (True, None, None, None)
    low, high = seen(before)["likely"]
    assert 0 <= low < high <= 100, "a range and no figure, and no ground for advice"
    jobs = served.http.post(f"/masters/{trying['id']}/probe").raise_for_status().json()["jobs"]
    assert [job["kind"] for job in jobs] == ["probe"]
    again = served.http.post(f"/masters/{trying['id']}/probe").json()["jobs"]
    assert [job["id"] for job in again] == [jobs[0]["id"]], "the one under way"
    after = ended(served, trying)
    assert (after["lacks_probes"], after["probing"]) == (False, None)
    at, curve = seen(after)["at"], seen(after)["curve"]
    assert (at["evidence"], curve["evidence"], curve["points"]) == ("probed", "probed", [])
    assert at["band"] > 0
    low, high = after["summary"]["lowest_bps"], after["summary"]["highest_bps"]
    assert (round(curve["line"][0][0]), round(curve["line"][-1][0])) == (low, high)
    values = [value for _, value in curve["line"]]
    assert values == sorted(values)
    assert curve["perfect"] >= values[-1] - 0.1
    path = served.parcel_path(trying, "fernpost-reel")
    tried = served.http.get(f"{path}/at", params={"video_bitrate_bps": high}).json()
    assert next(one for one in tried["arrivals"] if (one["screen"], one["line"]) == LAPTOP)["at"]["evidence"] == "probed"
    assert served.http.post(f"/masters/{trying['id']}/probe").json()["jobs"] == [], "nothing is missing"
    served.http.patch(f"{path}/choices", json={"times_enough": 1.2}).raise_for_status()
    marks = [one["curve"]["noticeable_step"]["high_bps"] for one in seen_by_all(after) if one["line"] == "good"]
    follows = lane(served, trying)["summary"]["plan"]["video"]["target_bps"]
    if all(marks):
        assert follows["value"] == pytest.approx(1.2 * max(marks), abs=15_000)
        assert follows["because"]["code"] == "enough"
    else:
        assert (follows["value"], follows["because"]["code"]) == (after["summary"]["plan"]["video"]["target_bps"]["value"], "guidance_top")
    served.http.put(f"{path}/choices", json={"effort": "quick", "video_bitrate_bps": high}).raise_for_status()
    advice = lane(served, trying)["recommended"]
    assert advice["because"]
    assert not advice["taken"]
    assert advice["against"]
    taken = served.http.post(f"/masters/{trying['id']}/recommended", json={"parcels": None}).raise_for_status().json()
    after = lane(served, trying)
    assert (after["recommended"]["taken"], after["recommended"]["option"]) == (True, advice["option"])
    assert after["summary"]["plan"]["video"]["target_bps"]["value"] == advice["video_bps"]
    served.http.put(f"/masters/{trying['id']}/parcels-state", json=taken["before"]).raise_for_status()
    assert not lane(served, trying)["recommended"]["taken"], "undone"
    served.http.put("/destinations/fernpost-reel/aim", json={"aim": "smallest"}).raise_for_status()
    assert (smaller := lane(served, trying)["recommended"])["aim"] == "smallest"
    assert smaller["size_bytes"] <= advice["size_bytes"]
    served.http.put("/destinations/fernpost-reel/aim", json={"aim": "safe"}).raise_for_status()
    assert served.http.put("/destinations/nowhere/aim", json={"aim": "safe"}).status_code == 404
    served.http.put(f"{path}/choices", json={"effort": "quick", "codec": "hevc"}).raise_for_status()
    assert lane(served, trying)["lacks_probes"], "another codec was never tried"


@pytest.mark.timeout(290)
def test_a_stop_is_not_undone_by_the_next_look_but_by_asking(served: Served, trying: dict) -> None:
    path = served.parcel_path(trying, "fernpost-reel")
    served.http.put(f"{path}/choices", json={"effort": "quick", "codec": "av1"}).raise_for_status()
    (job,) = served.http.post(f"{path}/probe").raise_for_status().json()["jobs"]
    served.http.post(f"/jobs/{job['id']}/cancel").raise_for_status()
    assert not ended(served, trying)["lacks_probes"]
    assert served.http.post(f"/masters/{trying['id']}/probe").json()["jobs"] == []
    (again,) = served.http.post(f"{path}/probe").json()["jobs"]
    served.http.post(f"/jobs/{again['id']}/cancel").raise_for_status()
    ended(served, trying)


@pytest.mark.timeout(290)
def test_other_ways_lie_beside_once_they_and_the_parcel_were_tried(served: Served, trying: dict) -> None:
    path = served.parcel_path(trying, "fernpost-reel")
    assert served.http.get(f"{path}/besides").raise_for_status().json() == []
    served.http.post(f"{path}/probe").raise_for_status()
    tried = served.until(f"{path}/besides", lambda found: next(iter(found), None), "another way", 240)
    assert tried["evidence"] == "probed"
    assert 1 < tried["paired_band"] < tried["band"] + 0.6
    summary = lane(served, trying)["summary"]
    assert {(line["screen"], line["line"]) for line in tried["lines"]} == {(s["screen"], s["line"]) for s in summary["seen"]}
    for line in tried["lines"]:
        assert line["drawn"]
        assert all(summary["lowest_bps"] <= bps <= summary["highest_bps"] for bps, _ in line["drawn"])
    served.http.patch(f"{path}/choices", json=tried["part"]).raise_for_status()
    assert not lane(served, trying)["lacks_probes"], "what lay beside is known when it is chosen"
    assert lane(served, trying)["summary"]["plan"]["video"]["codec"]["value"] == tried["part"].get("codec", "h264")


@pytest.mark.timeout(290)
def test_a_kinder_ladder_is_tried_where_it_is_asked_for(served: Served, trying: dict) -> None:
    path = f"{served.parcel_path(trying, 'fernpost-reel')}/reserve"
    assert served.http.get(path).json() == {"possible": True, "reserves": [], "job": None}
    assert served.http.post(path).raise_for_status().json()["job"]["title"].endswith("treated more gently")
    found = served.until(path, lambda view: view["reserves"], "what a kinder ladder makes of it", 240)
    assert len(found) == 6
    assert all(one["later"] >= one["now"] - 1 for one in found)
    served.show_only(trying, ["handover-client"])
    whole = f"{served.parcel_path(trying, 'handover-client')}/reserve"
    assert served.http.get(whole).json()["possible"] is False
    assert served.http.post(whole).json()["code"] == "not_re_encoded"


def test_switched_off_nothing_is_tried(served: Served, gale_master: dict) -> None:
    assert served.http.get("/machine").json()["probing"] is False
    assert not any(view["lacks_probes"] for view in served.lanes(gale_master))
    assert served.http.post(f"/masters/{gale_master['id']}/probe").json()["jobs"] == []
    assert served.http.post("/masters/nobody/probe").status_code == 404
    assert served.http.post("/parcels/nobody/probe").status_code == 404


@pytest.mark.timeout(290)
def test_what_nobody_waits_for_any_more_is_not_tested(served: Served, trying: dict) -> None:
    """Another film is looked at, a lane is removed, a film is left, all tests are stopped: each time only what is wanted waits still."""
    path = f"/masters/{trying['id']}"
    served.show_only(trying, ["fernpost-reel", "orrery-wide", "sprigg-upright"])

    def waiting() -> list[dict]:
        return [job for job in served.http.get("/jobs").json() if job["kind"] == "probe" and job["state"] == "waiting"]

    def under_way() -> list[dict]:
        return [job for job in served.http.get("/jobs").json() if job["kind"] == "probe" and job["state"] in ("waiting", "running")]

    made = served.http.post(f"{path}/probe").raise_for_status().json()["jobs"]
    assert len(made) >= 3
    removed = served.parcel_path(trying, "sprigg-upright")
    assert any(job["parcel_id"] == removed.rsplit("/", 1)[1] for job in waiting())
    served.http.delete(removed).raise_for_status()
    served.until("/jobs", lambda _: not [job for job in waiting() if job["parcel_id"] == removed.rsplit("/", 1)[1]], "its withdrawal")
    served.http.post(f"{path}/leave").raise_for_status()
    served.until("/jobs", lambda _: not waiting(), "the withdrawal of the rest")
    assert served.http.post(f"{path}/probe").json()["jobs"], "it is asked for again with the next look"
    served.http.post("/tests/stop").raise_for_status()
    served.until("/jobs", lambda _: not under_way(), "the stop")
    assert served.http.post(f"{path}/probe").json()["jobs"] == [], "what was stopped begins again when a lane asks for it"
    lane_path = served.parcel_path(trying, "orrery-wide")
    assert served.http.post(f"{lane_path}/probe").json()["jobs"]
    served.http.post("/tests/stop").raise_for_status()


@pytest.mark.timeout(290)
def test_stopping_a_lane_stops_its_first_figure_and_all_that_would_follow(
    served: Served, trying: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(probes, "QUICK_FROM_PIXELS", 0)
    path = served.parcel_path(trying, "fernpost-reel")
    served.http.put(f"{path}/choices", json={"effort": "careful"}).raise_for_status()
    (job,) = served.http.post(f"{path}/probe").raise_for_status().json()["jobs"]
    assert "first few clips" in job["title"]
    mine = [one for one in served.http.get("/jobs").json() if one["kind"] == "probe" and one["parcel_id"] == job["parcel_id"]]
    assert len([one for one in mine if one["state"] in ("waiting", "running")]) >= 2
    assert served.http.post(f"{path}/tests/stop").status_code == 204
    after = ended(served, trying)
    still = {one["id"] for one in served.http.get("/jobs").json() if one["state"] in ("waiting", "running")}
    assert not still & {one["id"] for one in mine}
    assert not after["lacks_probes"], "it begins again when it is asked for"
