"""The table of a batch: the order of its rows and what several videos share."""

from __future__ import annotations

import pytest

from hardy_parcel.core.batch.batch_table import (
    AttentionLevel,
    BatchCell,
    Concern,
    batch_row,
    batch_table,
    highest,
    master_concerns,
    unplanned_row,
)
from hardy_parcel.core.master.checks.stamping import CheckStamp, Remedy
from hardy_parcel.core.stamps import Outcome

BARS = Concern(
    code="baked_bars", level=AttentionLevel.CHECK, matter="bars", sentence="", remedy=Remedy.REMOVE_BARS, fixable=True
)
SHAPE = Concern(code="wrong_shape", level=AttentionLevel.CHECK, matter="another shape", sentence="")
TOO_LONG = Concern(code="too_long", level=AttentionLevel.HELD, matter="too long", sentence="")


def cell(*concerns: Concern, size_bytes: float = 10, refused: str = "") -> BatchCell:
    return BatchCell(
        destination_id="orrery-wide", name="Orrery", size_bytes=size_bytes, encode_s=2, upload_s=3, concerns=concerns,
        refused=refused,
    )  # fmt: skip


def test_rows_come_in_the_order_in_which_they_need_a_person() -> None:
    rows = [
        batch_row("a", "Clear b", [cell()], []),
        batch_row("b", "check", [cell(SHAPE)], []),
        batch_row("c", "clear a", [cell()], []),
        batch_row("d", "Too long", [cell(), cell(TOO_LONG)], []),
        unplanned_row("e", "Damaged", "This file ends early."),
        batch_row("f", "Bars", [cell()], [BARS]),
    ]
    ordered = batch_table(rows).rows
    assert [row.master_id for row in ordered] == ["e", "d", "f", "b", "c", "a"]
    assert [row.level for row in ordered] == [
        AttentionLevel.HELD,
        AttentionLevel.HELD,
        AttentionLevel.CHECK,
        AttentionLevel.CHECK,
        AttentionLevel.CLEAR,
        AttentionLevel.CLEAR,
    ]


def test_sums_leave_out_what_cannot_be_packed() -> None:
    table = batch_table(
        [
            batch_row("a", "a", [cell(size_bytes=5), cell(TOO_LONG, size_bytes=100)], []),
            batch_row("b", "b", [cell(size_bytes=7), cell(size_bytes=900, refused="It takes no pictures.")], []),
        ]
    )
    assert (table.parcels, table.size_bytes, table.encode_s, table.upload_s) == (2, 12, 4, 6)


def test_what_several_videos_share_is_counted_once_a_video() -> None:
    rows = [
        batch_row("a", "a", [cell(SHAPE), cell(SHAPE)], [BARS]),
        batch_row("b", "b", [cell(SHAPE), cell(TOO_LONG)], []),
    ]
    shared = {item.code: item for item in batch_table(rows).shared}
    assert list(shared) == ["too_long", "wrong_shape", "baked_bars"]
    assert set(shared["wrong_shape"].master_ids) == {"a", "b"}
    assert shared["wrong_shape"].asks_framing
    assert not shared["baked_bars"].asks_framing
    assert (shared["baked_bars"].remedy, shared["baked_bars"].fixable) == (Remedy.REMOVE_BARS, True)


@pytest.mark.parametrize(
    ("levels", "expected"),
    [
        ([], AttentionLevel.CLEAR),
        ([AttentionLevel.CLEAR], AttentionLevel.CLEAR),
        ([AttentionLevel.CLEAR, AttentionLevel.CHECK], AttentionLevel.CHECK),
        ([AttentionLevel.CHECK, AttentionLevel.HELD], AttentionLevel.HELD),
    ],
)
def test_the_highest_level_counts(levels: list[AttentionLevel], expected: AttentionLevel) -> None:
    assert highest(levels) is expected


def stamp(code: str, outcome: Outcome, *, done: bool = False, remedy: Remedy | None = None) -> CheckStamp:
    return CheckStamp(code=code, outcome=outcome, matter=code, seen="seen", done=done, remedy=remedy)


def test_findings_that_are_fixed_or_clear_are_no_concern_and_some_fixes_ask_nothing() -> None:
    concerns = master_concerns(
        [
            stamp("tags", Outcome.CARE, remedy=Remedy.READ_COLOUR),
            stamp("length", Outcome.CLEARED),
            stamp("loud", Outcome.CARE, remedy=Remedy.TURN_DOWN, done=True),
            stamp("blank_tail", Outcome.CARE, remedy=Remedy.TRIM),
            stamp("no_picture", Outcome.HELD),
        ]
    )
    assert [concern.code for concern in concerns] == ["no_picture", "tags", "blank_tail"]
    assert [concern.fixable for concern in concerns] == [False, False, True]
