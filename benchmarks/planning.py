"""Planning against its bar: 8 destinations × 5 choices within 50 ms, every offer of the bench besides. Prints ratios."""

from __future__ import annotations

import statistics
import sys
import time
from fractions import Fraction

from hardy_parcel.core.master.facts import AudioFacts, ColourTags, MasterFacts, VideoFacts
from hardy_parcel.core.parcel.offers import offers
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt
from hardy_parcel.core.trade.rate_control import Effort
from hardy_parcel.docks.shipped import shipped_destinations

BAR_S = 0.05
CHOICES = [
    Choices(), Choices(video_bitrate_bps=3_000_000), Choices(effort=Effort.QUICK), Choices(short_side_px=720), Choices(gain_db=-3.0),
]
MASTER = MasterFacts(
    name="Gale over the skerry.mp4", content_id="gale", container="MP4/MOV", size_bytes=50_000_000, duration_s=Fraction(20),
    bitrate_bps=20_000_000,
    video=VideoFacts(
        codec="h264", coded_width=1920, coded_height=1080, display_width=1920, display_height=1080, frame_rate=Fraction(50),
        pixel_format="yuv420p", colour=ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv"),
    ),
    audio=AudioFacts(codec="aac", sample_rate_hz=48000, channels=2, layout="stereo", integrated_lufs=-20.0, true_peak_dbtp=-8.0),
)


def main(*, small: bool = False) -> None:
    places = list(shipped_destinations().values())
    plans, offered = [], []
    for _ in range(1 if small else 15):
        began = time.perf_counter()
        for place in places:
            for choices in CHOICES:
                make_plan(MASTER, place, choices)
        plans.append(time.perf_counter() - began)
        began = time.perf_counter()
        for place in places:
            offers(MASTER, place, Choices(), make_plan(MASTER, place), whole_excerpt(MASTER))
        offered.append(time.perf_counter() - began)
    count = len(places) * len(CHOICES)
    print(f"{count} plans: {statistics.median(plans) / BAR_S:.2f} of the bar of 50 ms (most {max(plans) / BAR_S:.2f})")
    print(f"offers of {len(places)} benches: {statistics.median(offered) / BAR_S:.2f} of it")


if __name__ == "__main__":
    main(small="--small" in sys.argv)
