"""The command line: JSON, one sentence for bad input, exit codes."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from benchmarks.detector_clips import every_clip
from click.testing import CliRunner, Result

from hardy_parcel import serve
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.processes.messages import ProgressMade
from hardy_parcel.store.database import Database
from hardy_parcel.store.places import Places
from hardy_parcel.work.tasks import TASKS

from . import films


def call(*words: str | Path) -> Result:
    return CliRunner().invoke(serve.main, [str(word) for word in words])


class Here:
    """Runs tasks in this process, as a child of the command line would: starting one takes longer than what most tests try."""

    def __init__(self) -> None:
        self.say = lambda message: None

    rested_s = 0.0

    def __enter__(self) -> Here:
        return self

    def __exit__(self, *_) -> None:
        """There is nothing to end."""

    def run(self, task, *, hear=lambda message: None, limit_s: float | None = None):
        self.say = hear
        return TASKS[task.kind](task, self)

    def due(self) -> bool:
        return True

    def progress(self, progress) -> None:
        self.say(ProgressMade(progress=progress))


@pytest.fixture(autouse=True)
def in_this_process(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """For all tests but those that are marked to start children of their own."""
    if request.node.get_closest_marker("children"):
        return
    monkeypatch.setattr("hardy_parcel.work.reading.Child", Here)
    for module in ("dock_command", "forecast_commands", "film_commands", "pack_command"):
        monkeypatch.setattr(f"hardy_parcel.cli.{module}.in_child", lambda task, **heard: Here().run(task, **heard))


@pytest.fixture(scope="module")
def short(shelf: Path) -> Path:
    return films.film(shelf / "short.mp4", width=192, height=108, rate=50, seconds=1)


def told(result: Result) -> dict:
    assert result.exit_code == 0, result.stderr
    return json.loads(result.stdout)


@pytest.mark.children
def test_inspect(gale: Path) -> None:
    facts = told(call("inspect", gale, "--json"))
    assert facts["video"]["frame_rate"] == "50"
    assert facts["audio"]["integrated_lufs"] < 0
    text = call("inspect", gale).stdout
    assert "320×180, 50 frames/s, h264 High 2.1" in text
    assert "LUFS" in text


def test_inspect_with_checks_tells_every_stamp(tmp_path: Path, gale: Path) -> None:
    found = told(call("inspect", gale, "--checks", "--json"))
    assert {"code", "outcome", "seen", "at_s"} <= set(found["stamps"][0])
    assert {stamp["outcome"] for stamp in found["stamps"]} == {"cleared"}
    assert found["audio"]["integrated_lufs"] < 0
    odd = films.odd_film(tmp_path / "x.mkv")
    stamps = {s["code"]: s["outcome"] for s in told(call("inspect", odd, "--checks", "--json"))["stamps"]}
    assert stamps["untagged_colour"] == stamps["no_audio"] == "handle with care"
    text = call("inspect", odd, "--checks").stdout
    assert "handle with care: untagged colour" in text
    voice = told(call("inspect", films.sound_only(tmp_path / "voice.m4a"), "--checks", "--json"))
    assert voice["video"] is None
    assert {s["code"]: s["outcome"] for s in voice["stamps"]}["no_picture"] == "held"


def test_inspect_of_the_header_alone(gale: Path) -> None:
    assert told(call("inspect", gale, "--header", "--json"))["audio"]["integrated_lufs"] is None


def test_inspect_without_sound_or_tags(tmp_path: Path) -> None:
    text = call("inspect", films.odd_film(tmp_path / "x.mkv")).stdout
    assert "untagged" in text
    assert "sound    none" in text


@pytest.mark.parametrize("whole", [False, True])
def test_rehearse_tells_every_arrival(short: Path, whole: bool) -> None:
    found = told(
        call(
            "rehearse", short, "--to", "sprigg-upright", "--video-kbps", 300, "--json", *(["--whole"] if whole else [])
        )
    )
    assert (found["destination"], found["video_kbps"], found["whole"]) == ("sprigg-upright", 300, True)
    pairs = {(a["screen"], a["line"]) for a in found["arrivals"] if a["line"]}
    assert pairs == {(s.value, v.value) for s in Screen for v in ViewerLine}
    for arrival in found["arrivals"]:
        assert {"screen", "rendition", "xpsnr_db", "condition", "detail", "information", "movement", "evidence"} <= set(
            arrival
        )
        assert arrival["evidence"] == "rehearsed"
    assert found["pictures_measured"] == 25
    assert found["achieved_kbps"] > 0


@pytest.mark.children
def test_rehearse_in_a_child(short: Path) -> None:
    words = ("rehearse", short, "--to", "sprigg-upright", "--video-kbps", 300, "--out-point", "0.1", "--json")
    assert len(told(call(*words))["arrivals"]) >= 6


def test_rehearse_in_words(short: Path) -> None:
    text = call("rehearse", short, "--to", "orrery-wide", "--video-kbps", 300).stdout
    assert "short.mp4 → Orrery · wide film, 0.30 Mbit/s, rehearsed on windows" in text
    assert "arrived  laptop" in text


@pytest.mark.parametrize("gear", ["sheet", "probed", "rehearsed"])
def test_forecast_takes_several_rates_and_says_how_it_knows(short: Path, gear: str) -> None:
    words = ("forecast", short, "--to", "orrery-wide", "--gear", gear, "--out-point", "0.4")
    found = told(call(*words, "--json", "--video-kbps", 100, 600))
    assert [point["video_kbps"] for point in found["points"]] == [100, 600]
    assert found["gear"] == gear
    for point in found["points"]:
        assert point["achieved_kbps"] > 0
        assert {(a["screen"], a["line"]) for a in point["arrivals"]} >= {
            (s.value, v.value) for s in Screen for v in ViewerLine
        }
        assert all(a["evidence"] == gear and a["band"] > 0 for a in point["arrivals"])
    assert len(found["curves"]) == 6
    curve = next(one for one in found["curves"] if (one["screen"], one["line"]) == ("laptop", "good"))
    lower, upper = (
        next(a["condition"] for a in point["arrivals"] if a["screen"] == "laptop") for point in found["points"]
    )
    if gear == "sheet":
        assert (lower, upper, curve["noticeable_step_kbps"], found["recommended"]) == (None, None, None, None), (
            "nothing was tested"
        )
    else:
        assert lower <= upper + 3, "a film of twenty tiny pictures measures no finer"
        assert len(curve["noticeable_step_kbps"]) == len(curve["cannot_be_told_kbps"]) == 2
        assert set(found["recommended"]) == {"option", "video_kbps", "because", "risk"}
    again = call(*words, "--video-kbps", 100, "--video-kbps", 600)
    assert f"short.mp4 → Orrery · wide film, H.264, {gear}" in again.stdout
    assert (
        "not tested yet, probably" if gear == "sheet" else "within a noticeable step of a perfect upload on a laptop"
    ) in again.stdout
    assert ("recommended: " in again.stdout) == (gear != "sheet")


def test_forecast_of_every_codec_begins_with_the_plans_own(short: Path) -> None:
    words = ("forecast", short, "--to", "orrery-wide", "--gear", "sheet", "--all", "--video-kbps", 300)
    found = told(call(*words, "--json"))
    assert [one["codec"] for one in found] == ["h264", "hevc", "vp9", "av1"]
    assert all(len(one["curves"]) == 6 and len(one["points"]) == 1 for one in found)
    text = call(*words).stdout
    assert text.index("wide film, H.264, sheet") < text.index("wide film, HEVC, sheet")


@pytest.mark.children
def test_pack_and_its_receipt(gale: Path, tmp_path: Path) -> None:
    words = ("pack", gale, "--to", "orrery-wide", "--out", tmp_path, "--video-kbps", 300, "--effort", "quick")
    found = told(call(*words, "--json"))
    assert found["receipt"]["file_name"] == "Gale - Orrery wide - 180p50.mp4"
    assert (tmp_path / found["receipt"]["file_name"]).stat().st_size == found["receipt"]["size_bytes"]
    assert {row["match"] for row in found["receipt"]["rows"]} <= {"as planned", "explained"}
    clash = call(*words)
    assert clash.exit_code == 2
    assert "already has a file" in clash.stderr
    numbered = call(*words, "--numbered")
    assert numbered.exit_code == 0
    assert "(2).mp4" in numbered.stdout
    assert "sha256" in numbered.stdout


def test_several_films_for_several_destinations_and_one_bad_one_keeps_no_other(
    gale: Path, short: Path, tmp_path: Path
) -> None:
    bad = tmp_path / "bad.mp4"
    bad.write_bytes(b"no film")
    words = ("pack", gale, bad, short, "--to", "handover-client", "--to", "earshelf-audio", "--out", tmp_path / "out")
    answer = call(*words, "--pattern", "{master} {destination} {number}", "--json")
    assert answer.exit_code == 2
    assert "2 of 6 parcels were not packed" in answer.stderr
    lines = [json.loads(line) for line in answer.stdout.splitlines()]
    assert [(Path(line["file"]).stem, line["destination"]) for line in lines] == [
        (name, place) for name in ("Gale", "bad", "short") for place in ("handover-client", "earshelf-audio")
    ]
    assert {line["problem"]["code"] for line in lines if "problem" in line} == {"unreadable_master"}
    packed = [line["receipt"]["file_name"] for line in lines if "receipt" in line]
    assert packed[0] == "Gale Handover client 01.mp4"
    assert len(packed) == 4
    assert sorted(packed) == sorted(path.name for path in (tmp_path / "out").iterdir())


def test_what_was_packed_of_the_same_content_by_the_same_plan_is_passed_over(short: Path, tmp_path: Path) -> None:
    out, copy = tmp_path / "out", tmp_path / "renamed.mp4"
    copy.write_bytes(short.read_bytes())
    words = ("--to", "earshelf-audio", "--out", out, "--skip-existing")
    first = told(call("pack", short, *words, "--json"))
    record = out / f"{first['receipt']['file_name']}.receipt.json"
    assert json.loads(record.read_text())["receipt"]["sha256"] == first["receipt"]["sha256"]
    before = {path.name: path.stat().st_mtime_ns for path in out.iterdir()}
    again = told(call("pack", copy, *words, "--json"))
    assert Path(again["skipped"]).name == first["receipt"]["file_name"], "the content counts, not the name"
    assert {path.name: path.stat().st_mtime_ns for path in out.iterdir()} == before
    assert "skipped" in call("pack", short, *words).stdout
    another = told(call("pack", short, *words, "--in", "0.2", "--numbered", "--json"))
    assert "receipt" in another, "another plan is packed"
    record.write_text("no record")
    (out / first["receipt"]["file_name"]).write_bytes(b"cut short")
    assert "receipt" in told(call("pack", short, *words, "--numbered", "--json")), (
        "what is not whole any more is packed again"
    )
    file = out / another["receipt"]["file_name"]
    assert call("verify", file, "--against", f"{file}.receipt.json").exit_code == 0


def test_several_parcels_have_no_single_name_and_no_destination_is_said(gale: Path, tmp_path: Path) -> None:
    named = call("pack", gale, "--to", "handover-client", "--to", "orrery-wide", "--out", tmp_path, "--name", "x")
    assert (named.exit_code, "--pattern" in named.stderr) == (2, True)
    nowhere = call("pack", gale, "--out", tmp_path)
    assert (nowhere.exit_code, "no destination" in nowhere.stderr) == (2, True)


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_a_shell_completes_commands_and_destinations(shell: str) -> None:
    assert "_HARDY_PARCEL_COMPLETE" in call("completion", shell).stdout
    if shell == "bash":
        asked = {
            "_HARDY_PARCEL_COMPLETE": "bash_complete",
            "COMP_WORDS": "hardy-parcel pack x.mp4 --to orr",
            "COMP_CWORD": "4",
        }
        offered = CliRunner().invoke(serve.main, [], env=asked, prog_name="hardy-parcel").stdout
        assert "orrery-wide" in offered
        assert "sprigg" not in offered


def test_choices_reach_the_plan(gale: Path, tmp_path: Path) -> None:
    found = told(
        call(
            "pack",
            gale,
            "--to",
            "sprigg-upright",
            "--out",
            tmp_path,
            "--video-kbps",
            300,
            "--framing",
            "fill",
            "--in",
            "0.5",
            "--out-point",
            "1",
            "--name",
            "Cut",
            "--json",
            "--effort",
            "quick",
        )
    )
    assert found["plan"]["video"]["framing"]["value"]["mode"] == "fill"
    assert found["plan"]["video"]["rate_control"]["value"] == "one pass"
    assert found["receipt"]["file_name"] == "Cut.mp4"
    assert found["receipt"]["pictures"] == 12


@pytest.mark.parametrize("wish", [signal.SIGINT, signal.SIGTERM])
def test_an_interrupt_leaves_nothing_half_written(tmp_path: Path, shelf: Path, wish: signal.Signals) -> None:
    """The child has a session of its own, is asked to stop, and clears up before the command ends."""
    source = films.film(shelf / "long for the cli.mp4", width=320, height=180, seconds=6)
    command = [
        sys.executable,
        "-m",
        "hardy_parcel.serve",
        "pack",
        str(source),
        "--to",
        "orrery-wide",
        "--out",
        str(tmp_path),
    ]
    heard = lambda: signal.signal(signal.SIGINT, signal.default_int_handler)  # noqa: E731  a shell in the background mutes it
    running = subprocess.Popen(command, stderr=subprocess.PIPE, text=True, preexec_fn=heard)
    ends = time.monotonic() + 120
    while not list(tmp_path.iterdir()) and time.monotonic() < ends:
        time.sleep(0.02)
    running.send_signal(wish)
    assert running.wait(timeout=120) == 1
    assert "nothing half-written was kept" in running.stderr.read()
    assert list(tmp_path.iterdir()) == []


def test_a_plan_with_every_value_and_its_because(gale: Path) -> None:
    found = told(
        call(
            "plan",
            gale,
            "--to",
            "fernpost-reel",
            "--set",
            "codec=hevc",
            "--set",
            "rate-control=constant-quality",
            "--json",
        )
    )
    assert found["plan"]["codec"]["value"] == "hevc"
    assert found["plan"]["rate_control"]["value"] == "constant quality"
    for key, item in found["plan"].items():
        assert set(item) == {"value", "because"}, key
        assert set(item["because"]) == {"code", "sentence", "source"}, key
    assert found["instead_of"]["codec"]["value"] == "h264"
    assert found["encoder"]["encoder"] == "libx265"
    assert {stamp["code"] for stamp in found["stamps"]} == {
        stamp["code"] for stamp in found["stamps"] if stamp["sentence"]
    }
    text = call("plan", gale, "--to", "orrery-wide", "--set", "method=untouched").stdout
    assert "takes the master untouched" in text
    assert "we would have chosen" in call("plan", gale, "--to", "orrery-wide", "--set", "effort=quick").stdout


def test_a_report_compares_destinations_in_three_files(short: Path, tmp_path: Path) -> None:
    out = tmp_path / "report"
    done = call(
        "report",
        short,
        "--to",
        "orrery-wide",
        "--to",
        "sprigg-upright",
        "--to",
        "earshelf-audio",
        "--out",
        out,
        "--gear",
        "sheet",
    )
    assert done.exit_code == 0, done.output
    paths = sorted(path.suffix for path in out.iterdir())
    assert paths == [".csv", ".html", ".json"]
    lanes = json.loads(next(out.glob("*.json")).read_text())["lanes"]
    assert [one["lane"]["destination_id"] for one in lanes] == ["orrery-wide", "sprigg-upright", "earshelf-audio"]
    assert (lanes[0]["lane"]["seen"][0]["at"], len(lanes[0]["lane"]["seen"][0]["likely"])) == (None, 2), "not tested"
    assert lanes[2]["lane"]["seen"] == []
    refused = call("report", short, "--to", "orrery-wide", "--out", short)
    assert (refused.exit_code, "is a file" in refused.stderr) == (2, True)
    assert call("report", short, "--to", "nowhere", "--out", out).exit_code != 0


def test_a_rehearsed_report_shows_the_worst_moment(short: Path, tmp_path: Path) -> None:
    done = call("report", short, "--to", "sprigg-upright", "--out", tmp_path / "report", "--gear", "rehearsed")
    assert done.exit_code == 0, done.output
    page = next((tmp_path / "report").glob("*.html")).read_text()
    assert len(set(re.findall(r"data:image/png;base64,[^\"]+", page))) == 3
    assert re.findall(r"(master|packed|arrived), 0:\d\d\.\d\d, as a laptop shows it", page)[:6:2] == [
        "master",
        "packed",
        "arrived",
    ]


def test_the_measured_scan_goes_into_the_plan(tmp_path: Path) -> None:
    """Fields that no flag tells of: the command line sees them as the page does."""
    next(clip for clip in every_clip() if clip.name == "interlaced-yes-01").make(source := tmp_path / "reel.mp4")
    found = told(call("plan", source, "--to", "fernpost-reel", "--json"))
    assert found["plan"]["deinterlace"]["value"].startswith("deinterlaced")
    kept = told(call("plan", source, "--to", "fernpost-reel", "--mend", "keep-fields", "--json"))
    assert "interlaced" in {stamp["code"] for stamp in kept["stamps"]}
    scaled = told(
        call("plan", source, "--to", "fernpost-reel", "--mend", "keep-fields", "--set", "short-side-px=120", "--json")
    )
    assert "fields_scaled" in {stamp["code"] for stamp in scaled["stamps"] if stamp["outcome"] == "held"}
    none = call("plan", source, "--to", "fernpost-reel", "--mend", "remove-bars")
    assert (none.exit_code, "nothing in reel.mp4 to mend by remove-bars" in none.stderr) == (2, True)


def test_a_sheet_is_checked_imported_listed_and_planned_with(tmp_path: Path, gale: Path) -> None:
    document = json.loads(call("sheets", "export", "sprigg").stdout) | {"id": "tern", "name": "Tern"}
    path = tmp_path / "tern.json"
    path.write_text(json.dumps(document))
    assert told(call("sheets", "check", path, "--json")) == {"valid": True, "errors": []}
    assert told(call("plan", gale, "--to", "tern-upright", "--sheet", path, "--json"))["destination"] == "tern-upright"
    data = tmp_path / "data"
    assert told(call("sheets", "import", path, "--data", data, "--json")) == {
        "id": "tern",
        "version": 1,
        "destinations": ["tern-upright"],
    }
    assert told(call("sheets", "import", path, "--data", data, "--json"))["version"] == 2
    assert "tern" in {sheet["id"] for sheet in told(call("sheets", "list", "--data", data, "--json"))}
    assert [one["version"] for one in told(call("sheets", "versions", "tern", "--data", data, "--json"))] == [1, 2]
    assert told(call("sheets", "show", "tern-upright", "--data", data, "--json"))["version"] == 2
    assert told(call("plan", gale, "--to", "tern-upright", "--data", data, "--json"))["sheet_version"] == 2
    assert "Tern (upright shorts), version 2" in call("sheets", "list", "--data", data).stdout
    assert told(call("sheets", "schema"))["title"] == "Hardy Parcel rule sheet"


def test_a_bad_sheet_is_refused_with_every_path(tmp_path: Path) -> None:
    document = json.loads(call("sheets", "export", "sprigg").stdout) | {"colour": "blue", "checked_on": "soon"}
    path = tmp_path / "bad.json"
    path.write_text(json.dumps(document))
    result = call("sheets", "check", path, "--json")
    assert result.exit_code == 2
    assert {error["path"] for error in json.loads(result.stdout)["errors"]} == {"colour", "checked_on"}
    assert "colour: there is no such field" in call("sheets", "check", path).stderr
    imported = call("sheets", "import", path, "--data", tmp_path / "data")
    assert imported.exit_code == 2
    assert "checked_on" in imported.stderr


def test_a_table_is_pasted_from_a_file_and_from_standard_input(tmp_path: Path) -> None:
    (tmp_path / "table.txt").write_text("1080p\t8 Mbps\nbanana\n")
    found = told(call("sheets", "paste", tmp_path / "table.txt", "--json"))
    assert found["rows"][0] == {
        "short_side_px": 1080,
        "frame_rate_class": "standard",
        "dynamic_range": "sdr",
        "codec": "h264",
        "low_bps": 8_000_000,
        "high_bps": 8_000_000,
    }
    assert found["not_understood"] == ["banana"]
    piped = CliRunner().invoke(serve.main, ["sheets", "paste", "-", "--json"], input="720p60 6,5 Mbit/s")
    assert json.loads(piped.stdout)["rows"][0]["high_bps"] == 6_500_000
    assert "not understood, line 2: banana" in call("sheets", "paste", tmp_path / "table.txt").stdout


BAD = [
    (["inspect", "{tmp}/lost.mp4"], "There is no file lost.mp4"),
    (["inspect", "{tmp}/letter.mp4"], "cannot be read as a film"),
    (["inspect", "{tmp}/cut.mp4"], "cut short"),
    (["inspect", "{tmp}/voice.m4a"], "no picture"),
    (["inspect", "{tmp}"], "is a folder"),
    (["pack", "{gale}", "--to", "moon", "--out", "{tmp}"], "no destination 'moon'"),
    (["pack", "{gale}", "--to", "orrery-wide", "--out", "{tmp}/no/where"], "There is no folder"),
    (["pack", "{gale}", "--to", "orrery-wide", "--out", "{tmp}", "--in", "soon"], "In and out points are seconds"),
    (["pack", "{gale}", "--to", "orrery-wide", "--out", "{tmp}", "--in", "5"], "excerpt must lie within"),
    (["rehearse", "{gale}", "--to", "orrery-wide"], "--video-kbps"),
    (["rehearse", "{gale}", "--to", "earshelf-audio", "--video-kbps", "900"], "Nothing is encoded here"),
    (["plan", "{gale}", "--to", "orrery-wide", "--set", "colour=blue"], "Keys are: picture, sound, framing"),
    (["plan", "{gale}", "--to", "orrery-wide", "--set", "quality=lots"], "quality"),
    (["plan", "{gale}", "--to", "sprigg-upright", "--set", "codec=vp9"], "does not take VP9"),
    (["sheets", "show", "moon"], "no rule sheet 'moon'"),
    (["sheets", "check", "{tmp}/letter.mp4"], "not JSON"),
    (["sheets", "paste", "{tmp}/lost.txt"], "no file lost.txt"),
    (["rehearse", "{gale}", "--to", "orrery-wide", "--video-kbps", "9"], "9"),
    (["forecast", "{gale}", "--to", "orrery-wide", "--video-kbps", "many"], "many"),
]


@pytest.mark.parametrize(("words", "said"), BAD)
def test_bad_input_is_one_sentence_and_exit_code_two(tmp_path: Path, gale: Path, words: list[str], said: str) -> None:
    (tmp_path / "letter.mp4").write_text("Dear keeper")
    films.cut_short(gale, tmp_path / "cut.mp4", 0.5)
    films.sound_only(tmp_path / "voice.m4a")
    before = sorted(tmp_path.iterdir())
    result = call(*(word.format(tmp=tmp_path, gale=gale) for word in words))
    assert result.exit_code == 2
    assert said in result.stderr
    assert "Traceback" not in result.stderr
    assert result.stdout == ""
    assert sorted(tmp_path.iterdir()) == before


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere")
def test_an_unwritable_folder(tmp_path: Path, gale: Path) -> None:
    tmp_path.chmod(0o555)
    result = call("pack", gale, "--to", "orrery-wide", "--out", tmp_path)
    tmp_path.chmod(0o755)
    assert result.exit_code == 2
    assert "cannot be written to" in result.stderr


def test_our_own_fault_is_exit_code_one_without_a_stack_trace(gale: Path, monkeypatch) -> None:
    def broken(*args, **kwargs):
        raise ZeroDivisionError("secret")

    monkeypatch.setattr("hardy_parcel.cli.film_commands.read_facts", broken)
    result = call("inspect", gale)
    assert result.exit_code == 1
    assert "went wrong on our side" in result.stderr
    assert "secret" not in result.stderr


def test_the_installed_command() -> None:
    command = Path(sys.executable).with_name("hardy-parcel")
    shown = subprocess.run([command, "--help"], capture_output=True, text=True, check=True).stdout
    for name in ("inspect", "forecast", "rehearse", "pack", "serve"):
        assert name in shown


def test_shape_framing_focus_and_zoom_on_the_command_line(gale: Path) -> None:
    """The same picture in another shape: cropped around a place, between bars, over its own blur."""
    words = ["plan", gale, "--to", "fernpost-reel", "--shape", "4:5", "--json"]
    filled = told(call(*words, "--framing", "fill", "--focus", "0,0.5"))["plan"]
    assert filled["crop"]["value"] == {"x": 0, "y": 0, "width": 144, "height": 180}
    assert told(call(*words, "--framing", "fill", "--focus", "1,0.5"))["plan"]["crop"]["value"]["x"] == 176
    assert told(call(*words, "--framing", "fill", "--zoom", "2"))["plan"]["crop"]["value"]["height"] == 90
    assert told(call(*words, "--framing", "blur"))["plan"]["width"]["because"]["code"] == "blurred"
    assert told(call(*words, "--framing", "fit"))["plan"]["width"]["because"]["code"] == "fitted"


def test_a_packed_square_is_square_and_below_its_cap(gale: Path, tmp_path: Path) -> None:
    found = told(
        call(
            "pack",
            gale,
            "--to",
            "fernpost-reel",
            "--out",
            tmp_path,
            "--shape",
            "1:1",
            "--framing",
            "blur",
            "--max-size",
            "200kB",
            "--no-sound",
            "--effort",
            "quick",
            "--json",
        )
    )
    assert found["receipt"]["size_bytes"] <= 200_000
    rows = {row["code"]: row for row in found["receipt"]["rows"]}
    assert rows["size"]["measured"] == "320×320"
    assert rows["sound"]["measured"] == "none"
    assert rows["size_cap"]["match"] == "as planned"


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["--shape", "1:1"], "1:1 is not taken here"),
        (["--shape", "wide"], "shape"),
        (["--focus", "left"], "not a place in the picture"),
        (["--focus", "2,2"], "not a place in the picture"),
        (["--max-size", "small"], "not a size"),
        (["--max-size", "12"], "not a size"),
    ],
)
def test_a_wrong_shape_focus_or_size_gets_a_sentence(gale: Path, words: list[str], says: str) -> None:
    result = call("plan", gale, "--to", "orrery-wide", *words)
    assert result.exit_code == 2
    assert says in result.stderr
    assert "Traceback" not in result.stderr


def test_leaving_the_picture_or_the_sound_out(gale: Path) -> None:
    assert (
        told(call("plan", gale, "--to", "orrery-wide", "--no-sound", "--json"))["plan"]["sound"]["because"]["code"]
        == "sound_left_out"
    )
    found = told(call("plan", gale, "--to", "earshelf-audio", "--no-picture", "--json"))
    assert "held" not in {stamp["outcome"] for stamp in found["stamps"]}
    assert found["plan"]["picture"]["value"] is None
    held = told(call("plan", gale, "--to", "orrery-wide", "--no-picture", "--json"))
    assert held["stamps"][0]["code"] == "no_picture"


@pytest.fixture
def weekly(tmp_path: Path) -> Path:
    """A data folder with a recipe, brought in from a file."""
    intent = {"framing": "fill", "effort": "quick", "times_guidance": 0.5, "codec": "av1"}
    document = {
        "schema_version": 2,
        "id": "x",
        "name": "Weekly",
        "parts": [{"destination_id": "sprigg-upright", "intent": intent}],
    }
    (tmp_path / "weekly.json").write_text(json.dumps(document))
    result = call("recipes", "import", tmp_path / "weekly.json", "--data", tmp_path / "data")
    assert result.exit_code == 0, result.stderr
    return tmp_path / "data"


def test_a_recipe_on_the_command_line_adapts_and_says_so(gale: Path, weekly: Path) -> None:
    words = ["plan", gale, "--to", "sprigg-upright", "--data", weekly, "--recipe", "weekly", "--json"]
    result = call(*words)
    found = told(result)
    assert found["plan"]["crop"]["value"]["width"] < 320
    assert found["times_guidance"] == pytest.approx(0.5, abs=0.02)
    assert found["plan"]["effort"]["value"] == "quick"
    assert "Codec is left to the plan instead of AV1: Sprigg does not take AV1." in result.stderr
    assert told(call(*words, "--framing", "fit"))["plan"]["crop"]["value"]["width"] == 320, (
        "an option wins over the recipe"
    )


def test_recipes_are_listed_shown_and_given_away(weekly: Path) -> None:
    assert told(call("recipes", "list", "--data", weekly, "--json"))[0]["destinations"] == ["sprigg-upright"]
    assert "Weekly: sprigg-upright" in call("recipes", "list", "--data", weekly).stdout
    assert "fill, cropped" in call("recipes", "show", "weekly", "--data", weekly).stdout
    assert told(call("recipes", "export", "weekly", "--data", weekly))["parts"][0]["intent"]["codec"] == "av1"
    assert "properties" in told(call("recipes", "schema"))
    assert call("recipes", "list", "--data", weekly / "nothing").stdout == ""


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["--recipe", "nothing"], "Choose one of: Weekly"),
        (["--recipe", "weekly", "--to", "orrery-wide"], "says nothing of orrery-wide"),
    ],
)
def test_a_recipe_that_does_not_fit_gets_a_sentence(gale: Path, weekly: Path, words: list[str], says: str) -> None:
    result = call("plan", gale, "--to", "sprigg-upright", "--data", weekly, *words)
    assert result.exit_code == 2
    assert says in result.stderr


def test_recipes_that_cannot_be_read_are_refused(tmp_path: Path) -> None:
    (tmp_path / "bad.json").write_text('{"name": 3}')
    result = call("recipes", "import", tmp_path / "bad.json", "--data", tmp_path / "data")
    assert (result.exit_code, "parts is missing" in result.stderr) == (2, True)
    assert call("recipes", "show", "x", "--data", tmp_path / "none").exit_code == 2


def test_a_cap_that_ruins_the_picture_offers_other_ways(tmp_path: Path) -> None:
    long = films.film(tmp_path / "long.mp4", width=640, height=360, rate=10, seconds=8, grain=1)
    words = ["plan", long, "--to", "orrery-wide", "--max-size", "400kB"]
    found = told(call(*words, "--json"))
    assert {way["kind"] for way in found["alternatives"]} >= {"codec", "excerpt"}
    text = call(*words).stdout
    assert "instead: the first" in text
    assert "instead: AV1" in text


def test_one_file_is_judged_beside_another(tmp_path: Path, short: Path) -> None:
    words = (
        "pack",
        short,
        "--to",
        "orrery-wide",
        "--video-kbps",
        "60",
        "--no-sound",
        "--out",
        tmp_path,
        "--name",
        "packed",
        "--json",
    )
    assert told(call(*words))["receipt"]["pictures"] == 50
    found = told(call("compare", short, tmp_path / "packed.mp4", "--json"))
    assert [arrival["screen"] for arrival in found["arrivals"]] == ["phone", "laptop", "tv"]
    for arrival in found["arrivals"]:
        assert {"raster", "condition", "detail", "information", "movement", "xpsnr_db"} <= set(arrival)
        assert arrival["condition"] < 97
    same = told(call("compare", short, short, "--json"))
    assert [arrival["condition"] for arrival in same["arrivals"]] == [100.0] * 3
    assert same["pictures_measured"] == 50
    assert "imperceptible, 70.00 dB" in call("compare", short, short).stdout


def test_files_that_do_not_belong_together_get_a_sentence(tmp_path: Path, short: Path) -> None:
    others = {
        "is 16:9 and": films.film(tmp_path / "upright.mp4", width=108, height=192, rate=50, seconds=1, sound=None),
        "has 50 frames/s and": films.film(tmp_path / "slow.mp4", width=192, height=108, rate=25, seconds=1, sound=None),
        "is 0:01.00 long and": films.film(tmp_path / "long.mp4", width=192, height=108, rate=50, seconds=3, sound=None),
    }
    for says, other in others.items():
        result = call("compare", short, other, "--json")
        assert result.exit_code == 2
        assert "do not belong together" in result.stderr
        assert says in result.stderr
    assert "no file" in call("compare", short, tmp_path / "lost.mp4").stderr


def test_what_came_back_is_held_against_the_packed_file_and_against_its_receipt(gale: Path, tmp_path: Path) -> None:
    packed = told(call("pack", gale, "--to", "fernpost-reel", "--out", tmp_path, "--video-kbps", 300, "--json"))
    file = tmp_path / packed["receipt"]["file_name"]
    receipt = tmp_path / "receipt.json"
    receipt.write_text(json.dumps(packed))
    call("carry", file, "--by", "lockbox", "--out", tmp_path / "back")
    back = tmp_path / "back" / file.name
    assert told(call("verify", back, "--against", file, "--json"))["outcome"] == "same_bytes"
    found = told(call("verify", back, "--against", receipt, "--json"))
    assert (found["outcome"], found["packed_name"]) == ("same_bytes", file.name)
    file.unlink()
    other = told(call("verify", gale, "--against", receipt, "--json"))
    assert other["outcome"] == "recompressed", "by the receipt's fingerprint, though the packed file is gone"
    assert "It was recompressed on the way" in call("verify", gale, "--against", receipt).output
    (tmp_path / "letter.json").write_text("{}")
    for against, said in (("letter.json", "is no receipt"), ("nothing.mp4", "Nothing is known")):
        answer = call("verify", back, "--against", tmp_path / against)
        assert (answer.exit_code, said in answer.stderr) == (2, True), answer.stderr
    answer = call("verify", back, "--data", tmp_path / "empty")
    assert (answer.exit_code, "There are no receipts" in answer.stderr) == (2, True)


def test_checksums_are_written_beside_what_is_packed_and_its_folder_is_made(gale: Path, tmp_path: Path) -> None:
    folder = tmp_path / "new"
    for name in ("first", "second", "first again"):
        told(call("pack", gale, "--to", "handover-client", "--out", folder, "--name", name, "--checksums", "--json"))
    checked = subprocess.run(["sha256sum", "-c", "SHA256SUMS"], cwd=folder, capture_output=True, text=True)
    assert checked.returncode == 0, checked.stderr
    assert checked.stdout.count(": OK") == 3
    assert len((folder / "SHA256SUMS").read_text().splitlines()) == 3
    assert call("pack", gale, "--to", "handover-client", "--out", tmp_path / "no" / "parent").exit_code == 2


def test_the_queue_is_listed_paused_and_stopped(gale: Path, tmp_path: Path) -> None:
    data = tmp_path / "data"
    answer = call("queue", "list", "--data", data)
    assert (answer.exit_code, "There is no queue" in answer.stderr) == (2, True)
    Database(Places.of(data).database)
    assert "Nothing waits" in call("queue", "list", "--data", data).stdout
    words = ("pack", gale, "--to", "fernpost-reel", "--out", tmp_path, "--queue", "--data", data, "--json")
    jobs = [told(call(*words, "--name", name)) for name in ("one", "two")]
    assert [job["state"] for job in jobs] == ["waiting", "waiting"]
    assert "rests" in call("queue", "pause", "all", "--data", data).stdout
    listed = told(call("queue", "list", "--data", data, "--json"))
    assert [(job["id"], job["paused"]) for job in listed] == [(job["id"], True) for job in jobs]
    assert "waits" in call("queue", "resume", jobs[0]["id"], "--data", data).stdout
    call("queue", "stop", jobs[1]["id"], "--data", data)
    assert told(call("queue", "list", "--data", data, "--json"))[1]["cancel_asked"]
    assert call("queue", "again", jobs[0]["id"], "--data", data).exit_code == 2
    assert call("queue", "pause", "nothing", "--data", data).exit_code == 2
    assert not list(tmp_path.glob("*.mp4")), "it is the service that packs them"


def test_a_stand_in_takes_a_file_or_refuses_it(short: Path, tmp_path: Path) -> None:
    made = call("dock", short, "--to", "orrery-wide", "--out", tmp_path / "made", "--json")
    assert made.exit_code == 0, made.output
    [one] = told(made)["rendered"]
    assert (one["name"], Path(one["path"]).parent) == ("108p h264", tmp_path / "made")
    again = call("dock", short, "--to", "orrery-wide", "--out", tmp_path / "made")
    assert (again.exit_code, "is not empty" in again.stderr) == (2, True)
    refused = call("dock", short, "--to", "earshelf-audio", "--out", tmp_path / "refused")
    assert refused.exit_code == 2
    assert "Earshelf takes sound alone, and this file has a picture." in refused.stdout
    assert not (tmp_path / "refused").exists(), "nothing empty is left"
    over = call("dock", short, "--to", "fernpost-reel", "--out", tmp_path / "over", "--used", "650000000", "--json")
    assert (over.exit_code, json.loads(over.stdout)["refused"][0][:14]) == (2, "0 bytes are le")
