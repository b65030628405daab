"""The focus that is suggested for crops, from a film's own frames."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest

from hardy_parcel.media import saliency
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.saliency import focus_of


def film(path: Path, x: float, *, turned_deg: int = 0, codec: str = "libx264", **options: str) -> Path:
    """A second of 320×180 with a bright post at a share of its width."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=12, options=options)
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        if turned_deg:
            stream.set_display_rotation(turned_deg)
        picture = np.full((180, 320, 3), 70, np.uint8)
        picture[40:150, int(x * 320) - 10 : int(x * 320) + 10] = (220, 40, 40)
        for number in range(12):
            frame = av.VideoFrame.from_ndarray(picture, "rgb24")
            frame.pts = number
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


@pytest.mark.parametrize("options", [{}, {"g": "1"}, {"bf": "3", "g": "12"}])
def test_a_crop_is_centred_on_what_stands_out(tmp_path: Path, options: dict) -> None:
    path = film(tmp_path / "post.mp4", 0.75, **options)
    focus = focus_of(path, inspect(path, loudness=False))
    assert focus.x == pytest.approx(0.75, abs=0.13)


@pytest.mark.parametrize(("turned_deg", "x", "y"), [(-90, 0.5, 0.75), (90, 0.5, 0.25), (180, 0.25, 0.5)])
def test_the_focus_is_of_the_frame_as_it_is_shown(tmp_path: Path, turned_deg: int, x: float, y: float) -> None:
    path = film(tmp_path / "turned.mp4", 0.75, turned_deg=turned_deg)
    facts = inspect(path, loudness=False)
    assert facts.video.rotation_deg == -turned_deg % 360
    focus = focus_of(path, facts)
    assert (focus.x, focus.y) == (pytest.approx(x, abs=0.13), pytest.approx(y, abs=0.13))


def test_a_post_in_the_middle_and_a_damaged_film_suggest_nothing(tmp_path: Path) -> None:
    path = film(tmp_path / "middle.mp4", 0.5)
    facts = inspect(path, loudness=False)
    assert focus_of(path, facts) is None
    torn = bytearray(path.read_bytes())
    start = torn.index(b"mdat") + 4
    length = int.from_bytes(torn[start - 8 : start - 4], "big") - 8
    torn[start : start + length] = bytes(length)
    path.write_bytes(torn)
    assert focus_of(path, facts) is None


def test_frames_of_a_form_that_cannot_be_looked_at_suggest_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = film(tmp_path / "post.mp4", 0.75)
    facts = inspect(path, loudness=False)

    def refuse(*given: object) -> None:
        raise ValueError("no such conversion")

    monkeypatch.setattr(saliency, "small_planes", refuse)
    assert focus_of(path, facts) is None
