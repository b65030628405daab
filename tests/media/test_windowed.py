"""Test encodes of windows: each begins with a keyframe and its bits are its own."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import pytest

from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.codecs import PROBED_QUALITIES
from hardy_parcel.core.trade.rate_control import Effort
from hardy_parcel.media.windowed import encode_windows
from hardy_parcel.work.probing import probe_settings

from .. import films
from ..builders import ORRERY

WINDOWS = [0] * 12 + [1] * 12 + [2] * 12


@pytest.mark.parametrize("codec", sorted(PROBED_QUALITIES))
def test_bits_are_counted_by_window_and_every_window_starts_anew(codec: str, gale_facts, tmp_path: Path) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", codec=codec))
    pictures = [films.frame(planes, n, Fraction(1, 50)) for n, planes in enumerate(films.shimmer(320, 180, len(WINDOWS)))]
    said: list[float] = []
    settings = probe_settings(Journey(plan, ORRERY), PROBED_QUALITIES[codec][1], Effort.QUICK, codec)
    found = encode_windows(settings, pictures, WINDOWS, tmp_path / "made" / "probe.mkv", said.append)
    with av.open(str(tmp_path / "made" / "probe.mkv")) as container:
        packets = [packet for packet in container.demux(video=0) if packet.size]
        rate = container.streams.video[0].average_rate
    keys = {round(packet.pts * packet.time_base * rate) for packet in packets if packet.is_keyframe}
    assert keys >= {0, 12, 24}
    counted = sum(window.key_bits + window.other_bits for window in found.values())
    assert counted == pytest.approx(8 * sum(packet.size for packet in packets), rel=0.02), "a muxer may leave a header out"
    assert all(window.pictures == 12 and window.keys >= 1 for window in found.values())
    assert all(window.key_bits > window.other_bits / window.others for window in found.values())
    assert said[-1] == 1.0


def test_the_effort_and_the_quality_are_what_was_asked(gale_facts) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", video_bitrate_bps=300_000))
    quick, careful = (probe_settings(Journey(plan, ORRERY), 25, effort, "h264") for effort in (Effort.QUICK, Effort.CAREFUL))
    assert (quick.options["crf"], quick.options["preset"], careful.options["preset"]) == ("25", "veryfast", "slow")
    assert not {"b", "maxrate", "bufsize"} & set(quick.options)


@pytest.mark.parametrize("codec", ["hevc", "vp9", "av1"])
def test_the_base_codec_encodes_the_pictures_of_any_plan_alike(codec: str, gale_facts) -> None:
    def base(codec: str):
        plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", codec=codec))
        return probe_settings(Journey(plan, ORRERY), 25, Effort.QUICK, "h264")

    own, other = base("h264"), base(codec)
    assert (own.library, own.width, own.pixel_format) == (other.library, other.width, other.pixel_format)
    assert {**own.options, "level": ""} == {**other.options, "level": ""}
