"""The command line: JSON, one sentence for bad input, exit codes."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from hardy_parcel import cli, serve
from hardy_parcel.core.screens import Screen, ViewerLine
from hardy_parcel.work.tasks import TASKS

from . import films


def call(*words: str | Path) -> Result:
    return CliRunner().invoke(serve.main, [str(word) for word in words])


class Here:
    """Runs a task in this process, where the screens can be made small."""

    def __init__(self, hear) -> None:
        self.say = hear

    def progress(self, progress) -> None:
        self.say("progress", progress.model_dump(mode="json"))


@pytest.fixture
def small_screens(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("hardy_parcel.core.screens.PIXELS_PER_DEGREE", 12)
    monkeypatch.setattr(cli, "in_child", lambda task, *, hear: TASKS[task["kind"]](task, Here(hear)))


@pytest.fixture(scope="module")
def short(shelf: Path) -> Path:
    return films.film(shelf / "short.mp4", width=192, height=108, rate=50, seconds=1)


def told(result: Result) -> dict:
    assert result.exit_code == 0, result.stderr
    return json.loads(result.stdout)


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


@pytest.mark.usefixtures("small_screens")
@pytest.mark.parametrize("whole", [False, True])
def test_rehearse_tells_every_arrival(short: Path, whole: bool) -> None:
    found = told(call("rehearse", short, "--to", "sprigg-upright", "--video-kbps", 300, "--json", *(["--whole"] if whole else [])))
    assert (found["destination"], found["video_kbps"], found["whole"]) == ("sprigg-upright", 300, True)
    pairs = {(a["screen"], a["line"]) for a in found["arrivals"] if a["line"]}
    assert pairs == {(s.value, v.value) for s in Screen for v in ViewerLine}
    for arrival in found["arrivals"]:
        assert {"screen", "rendition", "xpsnr_db", "condition", "evidence"} <= set(arrival)
        assert arrival["evidence"] == "rehearsed"
    assert found["pictures_measured"] == 25
    assert found["achieved_kbps"] > 0


def test_rehearse_in_a_child(short: Path) -> None:
    words = ("rehearse", short, "--to", "sprigg-upright", "--video-kbps", 300, "--out-point", "0.1", "--json")
    assert len(told(call(*words))["arrivals"]) >= 6


@pytest.mark.usefixtures("small_screens")
def test_rehearse_in_words(short: Path) -> None:
    text = call("rehearse", short, "--to", "orrery-wide", "--video-kbps", 300).stdout
    assert "short.mp4 → Orrery · wide film, 0.30 Mbit/s, rehearsed on windows" in text
    assert "arrived  laptop" in text


@pytest.mark.usefixtures("small_screens")
def test_forecast_takes_several_rates_and_says_that_it_is_rehearsed(short: Path) -> None:
    found = told(call("forecast", short, "--to", "orrery-wide", "--json", "--video-kbps", 100, 600, "--out-point", "0.4"))
    assert [point["video_kbps"] for point in found["points"]] == [100, 600]
    assert "rehearsed" in found["method"]
    assert len(found["curves"]) == 6
    again = call("forecast", short, "--to", "orrery-wide", "--video-kbps", 100, "--video-kbps", 600, "--out-point", "0.2")
    assert "every point is rehearsed, none is modelled" in again.stdout
    assert "enough on a laptop" in again.stdout


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


def test_choices_reach_the_plan(gale: Path, tmp_path: Path) -> None:
    found = told(call(
        "pack", gale, "--to", "sprigg-upright", "--out", tmp_path, "--video-kbps", 300, "--framing", "fill", "--one-pass",
        "--in", "0.5", "--out-point", "1", "--name", "Cut", "--json", "--effort", "quick",
    ))
    assert found["plan"]["video"]["framing"]["value"]["mode"] == "fill"
    assert found["plan"]["video"]["rate_control"]["value"] == "one pass"
    assert found["receipt"]["file_name"] == "Cut.mp4"
    assert found["receipt"]["pictures"] == 12


def test_an_interrupt_leaves_nothing_half_written(tmp_path: Path, shelf: Path) -> None:
    """The child has a session of its own, is asked to stop, and clears up before the command ends."""
    source = films.film(shelf / "long for the cli.mp4", width=640, height=360, seconds=12)
    command = [sys.executable, "-m", "hardy_parcel.serve", "pack", str(source), "--to", "orrery-wide", "--out", str(tmp_path)]
    running = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
    ends = time.monotonic() + 60
    while not list(tmp_path.iterdir()) and time.monotonic() < ends:
        time.sleep(0.02)
    running.send_signal(signal.SIGINT)
    assert running.wait(timeout=30) == 1
    assert "nothing half-written was kept" in running.stderr.read()
    assert list(tmp_path.iterdir()) == []


BAD = [
    (["inspect", "{tmp}/lost.mp4"], "There is no file lost.mp4"),
    (["inspect", "{tmp}/letter.mp4"], "cannot be read as a film"),
    (["inspect", "{tmp}/cut.mp4"], "cut short"),
    (["inspect", "{tmp}/voice.m4a"], "no picture"),
    (["inspect", "{tmp}"], "is a folder"),
    (["pack", "{gale}", "--to", "moon", "--out", "{tmp}"], "no destination 'moon'"),
    (["pack", "{gale}", "--to", "orrery-wide", "--out", "{tmp}/nowhere"], "There is no folder"),
    (["pack", "{gale}", "--to", "orrery-wide", "--out", "{tmp}", "--in", "soon"], "In and out points are seconds"),
    (["pack", "{gale}", "--to", "orrery-wide", "--out", "{tmp}", "--in", "5"], "excerpt must lie within"),
    (["rehearse", "{gale}", "--to", "orrery-wide"], "--video-kbps"),
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

    monkeypatch.setattr(cli, "read_facts", broken)
    result = call("inspect", gale)
    assert result.exit_code == 1
    assert "went wrong on our side" in result.stderr
    assert "secret" not in result.stderr


def test_the_installed_command() -> None:
    command = Path(sys.executable).with_name("hardy-parcel")
    shown = subprocess.run([command, "--help"], capture_output=True, text=True, check=True).stdout
    for name in ("inspect", "forecast", "rehearse", "pack", "serve"):
        assert name in shown
