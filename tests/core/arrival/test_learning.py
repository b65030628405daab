"""What a platform does is recovered from what it served: quality, ceiling, codec, sizes and sound."""

from __future__ import annotations

import math
from fractions import Fraction

import pytest

from hardy_parcel.core.arrival.alignment import Alignment, Placing, Timing
from hardy_parcel.core.arrival.learning import (
    TRIED,
    Observation,
    ReturnedFound,
    WindowSeen,
    buffer_room,
    correct,
    explains,
    fit_rule,
    next_tried,
    predicted,
)
from hardy_parcel.core.arrival.returned import ReturnedSound
from hardy_parcel.core.arrival.screens import Screen
from hardy_parcel.core.sheets.sheet import Sheet
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.docks.shipped import shipped_sheets

ORRERY = destination("orrery-wide")
[SHEET] = [sheet for sheet in shipped_sheets() if sheet.id == "orrery"]
RULE = ORRERY.placement.handling.tiers[0].renditions[0]
FPS, OVER = 25.0, 1.2


def condition_at(quality: float, hard: float) -> float:
    return 100 - hard * 1.2 * 1.09 ** (quality - 18)


def bits_at(quality: float, hard: float) -> float:
    return 60_000 * hard * 2 ** (-(quality - 18) / 6)


def observed(
    quality: float, *, ceiling_bps: float = math.inf, hard: tuple[float, ...] = (1.0, 1.5, 2.5, 4.0), side: int = 1080, codec: str = "h264",
    best: bool = True, upload: int = 1080, **more: object,
) -> Observation:
    """A film whose windows cost and look like a made-up encoder's, served at a quality under a ceiling."""
    windows = []
    for number, one in enumerate(hard):
        held = 18 - 6 * math.log2(min(1e12, ceiling_bps / FPS / OVER) / (60_000 * one))
        now = max(quality, held)
        tried = TRIED[codec]
        windows.append(WindowSeen(
            master_s=Fraction(number), bits=bits_at(now, one), tried_bits=tuple(bits_at(q, one) for q in tried),
            seen={Screen.LAPTOP: condition_at(now, one)}, tried={Screen.LAPTOP: tuple(condition_at(q, one) for q in tried)},
        ))
    return Observation.model_validate({
        "upload_side_px": upload, "short_side_px": side, "codec": codec, "frame_rate": Fraction(25), "video_bps": 1_000_000, "best": best,
        "over_other": OVER, "qualities": TRIED[codec], "windows": tuple(windows), **more,
    })


def rule_now(sheet: Sheet, side: int = 1080):
    return next(rule for rule in sheet.placements[0].handling.tiers[0].renditions if rule.short_side_px == side)


@pytest.mark.parametrize("quality", [20, 25, 30, 36])
def test_a_quality_is_recovered_where_no_ceiling_is_met(quality: int) -> None:
    found = fit_rule([observed(quality)], RULE)
    assert found.quality == pytest.approx(quality, abs=1.0)


def test_a_ceiling_is_recovered_where_hard_windows_meet_it_and_easy_ones_do_not() -> None:
    found = fit_rule([observed(24, ceiling_bps=1_500_000)], RULE)
    assert found.quality == pytest.approx(24, abs=1.0)
    assert found.ceiling_bps == pytest.approx(1_500_000, rel=0.1)


def test_a_rule_is_told_by_several_films_together() -> None:
    """One film never meets the ceiling and one always does: only both together tell quality and ceiling."""
    easy, hard = observed(23, ceiling_bps=2_000_000, hard=(0.3, 0.5)), observed(23, ceiling_bps=2_000_000, hard=(6.0, 8.0))
    found = fit_rule([easy, hard], RULE)
    assert found.quality == pytest.approx(23, abs=1.0)
    assert found.ceiling_bps == pytest.approx(2_000_000, rel=0.12)


def test_what_a_sheet_says_already_changes_nothing() -> None:
    found = correct(SHEET, ORRERY, [("Gale.mp4", observed(RULE.quality, ceiling_bps=RULE.ceiling_standard_bps))])
    assert found.changes == ()
    assert found.sentence == "The sheet says already what this platform does."
    assert found.sheet.placements[0].handling.tiers == ORRERY.placement.handling.tiers


def test_a_harder_platform_is_learnt_and_steps_of_which_nothing_came_back_follow() -> None:
    found = correct(SHEET, ORRERY, [("Gale.mp4", observed(RULE.quality + 8))])
    assert found.sheet.version == SHEET.version + 1
    assert rule_now(found.sheet).quality == pytest.approx(RULE.quality + 8, abs=1)
    assert rule_now(found.sheet, 480).quality == pytest.approx(rule_now(SHEET, 480).quality + 8, abs=1)
    [error] = found.errors
    assert error.after < error.before / 2
    assert found.sheet.placements[0].handling.tiers[1] == SHEET.placements[0].handling.tiers[1]


def test_a_smaller_best_and_another_codec_are_learnt() -> None:
    """The best that is served is 720p in VP9, so that the sheet's 1080p goes and its 720p is another."""
    found = correct(SHEET, ORRERY, [("Gale.mp4", observed(38, side=720, codec="vp9"))])
    sides = {rule.short_side_px: rule for rule in found.sheet.placements[0].handling.tiers[0].renditions}
    assert max(sides) == 720
    assert sides[720].codec == "vp9"
    assert sides[720].quality == pytest.approx(38, abs=1)
    assert any(change.what == "1080p" and change.becomes == "is not served" for change in found.changes)


def test_a_smaller_file_that_is_not_the_best_leaves_the_ladder() -> None:
    found = correct(SHEET, ORRERY, [("Gale.mp4", observed(33, side=720, best=False))])
    assert [rule.short_side_px for rule in found.sheet.placements[0].handling.tiers[0].renditions] == [1080, 720, 480]


def test_one_file_unlike_the_others_is_named_and_left_out() -> None:
    files = [(f"Film {n}.mp4", observed(31, hard=(1.0 + n / 5, 2.0))) for n in range(3)]
    alone = correct(SHEET, ORRERY, files)
    found = correct(SHEET, ORRERY, [*files, ("Odd.mp4", observed(45))])
    assert [error.outlier for error in found.errors] == [False, False, False, True]
    assert rule_now(found.sheet).quality == rule_now(alone.sheet).quality


def test_no_error_grows() -> None:
    """Whatever came back, a correction is at least as near to it as the sheet was."""
    for quality in (18, 24, 25, 26, 29, 40):
        for ceiling in (400_000, 1_200_000, 9_000_000):
            [error] = correct(SHEET, ORRERY, [("Gale.mp4", observed(quality, ceiling_bps=ceiling))]).errors
            assert error.after <= error.before + 0.05, (quality, ceiling, error)


def sound(lufs: float, bps: int = 128_000, peak: float = -6.0) -> ReturnedSound:
    return ReturnedSound(codec="aac", channels=2, bitrate_bps=bps, integrated_lufs=lufs, true_peak_dbtp=peak)


def test_sound_that_was_turned_and_made_anew_is_learnt() -> None:
    rule = ORRERY.placement
    down = correct(SHEET, ORRERY, [("A.mp4", observed(25, sent_sound=sound(-10.0), sound=sound(-18.0, 64_000)))]).sheet.placements[0]
    assert (down.handling.loudness, down.audio.target_lufs, down.handling.sound_bps) == ("turns down", -18.0, 64_000)
    up = correct(SHEET, ORRERY, [("A.mp4", observed(25, sent_sound=sound(-30.0), sound=sound(-20.0)))]).sheet.placements[0]
    assert (up.handling.loudness, up.audio.target_lufs) == ("both ways", -20.0)
    held = correct(SHEET, ORRERY, [("A.mp4", observed(25, sent_sound=sound(-30.0), sound=sound(-26.0, peak=-1.4)))]).sheet.placements[0]
    assert held.audio.target_lufs == rule.audio.target_lufs


def test_a_codec_that_nothing_here_encodes_as_platforms_do_is_only_told() -> None:
    silent = observed(25).model_copy(update={"codec": "hevc", "qualities": (), "windows": observed(25).windows})
    found = correct(SHEET, ORRERY, [("Gale.mp4", silent)])
    assert found.errors[0].after is None
    assert found.sheet.placements[0].handling.tiers == SHEET.placements[0].handling.tiers


def test_equation_1_holds_a_window_at_its_ceiling() -> None:
    one = observed(20, hard=(4.0,))
    free, held = predicted(one, 20, None)[Screen.LAPTOP], predicted(one, 20, 1_000_000)[Screen.LAPTOP]
    assert free > held
    assert held == pytest.approx(condition_at(18 - 6 * math.log2(1_000_000 / FPS / OVER / 240_000), 4.0), abs=1.0)


def test_a_short_film_that_drew_on_the_buffer_tells_no_higher_ceiling() -> None:
    room = buffer_room(2.0, 3.0)
    assert 1.2 < room < 1.3
    assert buffer_room(2.0, 600.0) == pytest.approx(1, abs=0.002)
    short = observed(20, ceiling_bps=2_000_000 * room, room=room)
    told, untold = (fit_rule([one], None).ceiling_bps for one in (short, short.model_copy(update={"room": 1.0})))
    assert told == pytest.approx(2_000_000, rel=0.12)
    assert untold == pytest.approx(told * room, rel=0.02)


def test_what_a_short_film_draws_on_a_buffer_is_not_said_to_be_more_than_the_ceiling() -> None:
    ceiling = RULE.ceiling_bps("standard")
    alignment = Alignment(
        timing=Timing(speed=1, offset_s=0, off_frames=0, told=True), placing=Placing(scale_x=1, scale_y=1, left=0, top=0), alike=0.99,
        packed_width=1920, packed_height=1080, packed_s=3, packed_rate=25, returned_width=1920, returned_height=1080, returned_s=3,
        returned_rate=25,
    )

    def said(room: float) -> tuple[str, ...]:
        one = observed(25, room=room).model_copy(update={"video_bps": round(ceiling * 1.2)})
        found = ReturnedFound(file_name="short.mp4", alignment=alignment, words=(), conditions={}, observation=one)
        return explains(found, ORRERY)

    assert [("more than the ceiling" in line) for line in said(1.0)] == [True]
    assert said(buffer_room(2.0, 3.0)) == ()


@pytest.mark.parametrize(("quality", "rule", "tried"), [
    (28, 28, (23, 28, 33)), (25, 25, (23, 28, 33)), (25, 40, (23, 28, 33, 39)), (36, 36, (28, 33, 39)), (20, None, (18, 23, 28)),
    (20, 36, (18, 23, 28, 33, 39)), (16, 30, (18, 23, 28, 33)), (44, 30, (28, 33, 39)),
])
def test_no_more_qualities_are_tried_than_what_was_served_and_the_sheet_lie_between(quality, rule, tried) -> None:
    hard = (1.0, 2.5)
    served, bits = [bits_at(quality, one) for one in hard], dict[int, list[float]]()
    while (one := next_tried("h264", bits, served, rule)) is not None:
        assert one not in bits
        bits[one] = [bits_at(one, window) for window in hard]
    assert tuple(sorted(bits)) == tried


def test_a_file_of_which_fewer_qualities_were_tried_teaches_the_same() -> None:
    whole = observed(27)
    fewer = whole.model_copy(update={
        "qualities": whole.qualities[1:4],
        "windows": tuple(
            one.model_copy(update={"tried_bits": one.tried_bits[1:4], "tried": {screen: row[1:4] for screen, row in one.tried.items()}})
            for one in whole.windows
        ),
    })
    assert fit_rule([fewer], RULE).quality == pytest.approx(fit_rule([whole], RULE).quality, abs=0.5)
    assert fit_rule([fewer, observed(27)], RULE).quality == pytest.approx(27, abs=1.0)


def test_what_one_hard_film_leaves_open_is_not_settled_by_it() -> None:
    """Served all through at one rate, it may have met a lower ceiling or a coarser quality: neither is taken for certain."""
    truth = {"quality": 22.0, "ceiling_bps": RULE.ceiling_standard_bps * 0.4}
    alike = observed(**truth, hard=(6.0, 6.0, 6.0))
    found = fit_rule([alike], RULE)
    assert truth["ceiling_bps"] < found.ceiling_bps < RULE.ceiling_standard_bps * 0.9
    harder = observed(**truth, hard=(12.0, 14.0))
    before, after = (
        abs(predicted(harder, *rule)[Screen.LAPTOP] - harder.condition(Screen.LAPTOP))
        for rule in ((RULE.quality, RULE.ceiling_standard_bps), (found.quality, found.ceiling_bps))
    )
    assert after < 0.6 * before
    told = fit_rule([alike, observed(**truth, hard=(0.3, 0.5))], RULE)
    assert told.quality == pytest.approx(22, abs=1.0)
    assert told.ceiling_bps == pytest.approx(truth["ceiling_bps"], rel=0.1)
