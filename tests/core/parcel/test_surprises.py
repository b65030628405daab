"""What may surprise before packing: told where it is so, and not where nobody would notice."""

from __future__ import annotations

from fractions import Fraction

from hardy_parcel.core.master.checks.stamping import CheckStamp, Remedy
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.parcel.surprises import surprises
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.stamps import Outcome

from ...builders import ORRERY, SPRIGG, audio, facts

BLANK = CheckStamp(
    code="blank_tail",
    outcome=Outcome.CARE,
    matter="blank tail",
    seen="3 s of black",
    remedy=Remedy.TRIM,
    excerpt=Excerpt(in_s=Fraction(0), out_s=Fraction(17)),
)


def told(master=None, place=ORRERY, stamps=(), excerpt=None, **choices) -> tuple[str, ...]:
    master = master or facts(bitrate_bps=15_000_000)
    return surprises(master, make_plan(master, place, Choices(method="encoded", **choices), excerpt), stamps)


def test_an_ordinary_parcel_surprises_nobody() -> None:
    assert told(gain_db=1.0) == ()


def test_everything_that_may_surprise_is_said() -> None:
    assert told(stamps=[BLANK], gain_db=0.0) == ("3.0 s of it are black and silent.",)
    assert told(stamps=[BLANK], gain_db=0.0, excerpt=Excerpt(in_s=Fraction(0), out_s=Fraction(17))) == ()
    assert told(gain_db=9.0) == ("The sound is turned up by 9 dB.",)
    assert told(gain_db=-6.0) == ("The sound is turned down by 6 dB.",)
    assert "Black bars take 68% of the frame." in told(place=SPRIGG, framing="fit", gain_db=0.0)
    assert "A blurred copy of itself fills 68% of the frame." in told(place=SPRIGG, framing="blur", gain_db=0.0)
    assert "68% of the picture is cut away." in told(place=SPRIGG, gain_db=0.0)
    fast = facts(1920, 1080, 50, bitrate_bps=15_000_000)
    assert told(fast, frame_rate="25", gain_db=0.0) == ("50% of the frames are left out, 50 become 25 a second.",)
    small = facts(bitrate_bps=900_000)
    assert told(small, gain_db=0.0) == (
        "9.1 Mbit/s is 10 times the bit rate it was recorded at; most of that cannot be used.",
    )


def test_what_goes_as_it_is_is_not_changed_and_a_blank_end_goes_with_it() -> None:
    master = facts(bitrate_bps=900_000, sound=audio(integrated_lufs=-40.0))
    plan = make_plan(master, ORRERY, Choices(method="untouched"))
    assert surprises(master, plan, []) == ()
    assert len(surprises(master, plan, [BLANK])) == 1
