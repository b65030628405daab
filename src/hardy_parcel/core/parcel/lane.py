"""One parcel among the others of its master: what a row, a table or a report says of it, and how it differs from another."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from fractions import Fraction

from ..arrival.bands import difference_words, is_told, paired_band
from ..arrival.condition import NOTICEABLE_STEP
from ..arrival.curve import ConditionAt
from ..arrival.marks import RateMark
from ..arrival.rehearsal import Evidence
from ..arrival.screens import Screen, ViewerLine
from ..plan.choices import Method
from ..plan.framing import Framing
from ..plan.plan import Plan
from ..sheets.sheet import Destination
from ..stamps import Outcome, Stamp
from ..values import Model, Ratio, shape_text, size_text
from .parcel import Parcel, rate_phrase
from .recommending import Recommendation
from .shapes import standing
from .summary import Figures, Seen, packed_phrase

SAME_BYTES = 0.005
"""Files whose sizes differ by less than this share are told as of one size."""


class BesideRow(StrEnum):
    """Why a row stands under a lane without being one: the master as it is, or the larger frame that is treated better."""

    AS_IT_IS = "as it is"
    LARGER = "larger"


class LaneSeen(Model):
    """What arrives of one lane on one screen and viewer's line, with the marks of its curve.

    `at` is there once it was tested and is sure enough; before that `likely` says between which points it will probably lie.
    `picture_height` is the share of the screen's height that the picture has there.
    """

    screen: Screen
    line: ViewerLine
    at: ConditionAt | None
    likely: tuple[float, float] | None = None
    cannot_be_told: RateMark | None = None
    noticeable_step: RateMark | None = None
    picture_height: float


class Lane(Model):
    """One parcel as a row. `beside` another it is the same destination with the master as it is or a larger frame, not kept.

    `shape` is in words, `ratio` width over height; both and `framing` are missing for sound alone. `kept_area` is the share of the
    active picture that is kept. Sizes are in bytes, times in s, rates in bit/s.
    """

    parcel: Parcel
    beside: BesideRow | None = None
    difference: str
    destination_id: str
    sheet_name: str
    placement_name: str
    kind: str
    method: Method
    held: bool
    stamps: tuple[Stamp, ...]
    plan_key: str
    packed_phrase: str
    target_bps: int | None
    sound_bps: int | None
    guidance_words: str
    guidance_low_bps: int | None
    guidance_high_bps: int | None
    under_cap: bool
    figures: Figures
    framing: Framing | None
    shape: str
    ratio: Ratio | None
    kept_area: float | None
    seen: tuple[LaneSeen, ...]
    recommended: Recommendation | None = None

    @property
    def copied(self) -> bool:
        return self.method is not Method.ENCODE

    @property
    def name(self) -> str:
        """What tells it from the others of its master: the destination, and for a sibling its own name or what differs."""
        placement = f"{self.sheet_name} {self.placement_name}"
        local = self.way if self.beside or self.parcel.name or self.parcel.sibling_of else ""
        return f"{placement}, {local}" if local else placement

    @property
    def way(self) -> str:
        """What sets it apart from the first of its destination."""
        if self.beside is BesideRow.LARGER and self.framing:
            return f"{self.framing.width}×{self.framing.height}"
        return "as it is" if self.beside else self.parcel.name or self.difference

    def on(self, screen: Screen, line: ViewerLine) -> LaneSeen | None:
        """What is seen of it on one screen and line; None for sound alone."""
        return next((seen for seen in self.seen if (seen.screen, seen.line) == (screen, line)), None)


def lane(
    *,
    parcel: Parcel,
    destination: Destination,
    plan: Plan,
    figures: Figures,
    seen: Sequence[Seen],
    stamps: tuple[Stamp, ...],
    difference: str = "",
    beside: BesideRow | None = None,
    active_size: tuple[int, int],
) -> Lane:
    """A lane from what was computed of its parcel; `active_size` is the master's picture without baked-in bars, in px."""
    video, framing = plan.video, plan.video.framing.value if plan.video else None
    local = plan.guidance if plan.destination_id == destination.id else None  # a shared file follows another one's
    ratio = Fraction(framing.width, framing.height) if framing else None
    heights = {screen: standing(screen, framing).height_share if framing else 0.0 for screen in Screen}
    return Lane(
        parcel=parcel,
        beside=beside,
        difference=difference,
        destination_id=destination.id,
        sheet_name=destination.sheet_name,
        placement_name=destination.placement.name,
        kind=destination.kind,
        method=plan.method.value,
        held=any(stamp.outcome is Outcome.HELD for stamp in plan.stamps),
        stamps=stamps,
        plan_key=plan.key(),
        packed_phrase=packed_phrase(plan),
        target_bps=video.target_bps.value if video else None,
        sound_bps=plan.audio.bitrate_bps.value if plan.audio else None,
        guidance_words=rate_phrase(plan) if local else "",
        guidance_low_bps=local.low_bps if local else None,
        guidance_high_bps=local.high_bps if local else None,
        under_cap=video is not None and video.under_cap,
        figures=figures,
        framing=framing,
        shape=shape_words(ratio),
        ratio=ratio,
        kept_area=framing.kept_area(width=active_size[0], height=active_size[1]) if framing else None,
        seen=tuple(
            LaneSeen(
                screen=item.screen,
                line=item.line,
                at=item.at,
                likely=item.likely,
                cannot_be_told=item.curve.cannot_be_told,
                noticeable_step=item.curve.noticeable_step,
                picture_height=round(heights[item.screen], 3),
            )
            for item in seen
        ),
    )


def shape_words(ratio: Fraction | None) -> str:
    """A shape, width over height, in words; “sound” without one."""
    if ratio is None:
        return "sound"
    plain = ratio.limit_denominator(16)  # an even frame misses its shape by a row
    if max(plain.numerator, plain.denominator) <= 16 and abs(plain - ratio) < ratio / 200:
        ratio = plain
    return f"{'square' if ratio == 1 else 'wide' if ratio > 1 else 'upright'} {shape_text(ratio)}"


class ApartSeen(Model):
    """By how many points one lane arrives better than another on a screen and line, give or take `band`, and that in words."""

    screen: Screen
    line: ViewerLine
    points: float
    band: float
    told: bool
    evidence: Evidence
    words: str


class Apart(Model):
    """How a lane differs from the one it is compared with: by screen and line, in bytes, and in seconds of upload and of encoding.

    `encode_s` is None where the two encode times are known in different ways, which tells nothing of their difference.
    """

    of_id: str
    of_name: str
    seen: tuple[ApartSeen, ...]
    size_bytes: int
    upload_s: float
    encode_s: float | None
    size_words: str
    time_words: str


def apart(one: Lane, other: Lane) -> Apart:
    """How `one` differs from `other`, of the same master."""
    size = one.figures.size.expected_bytes - other.figures.size.expected_bytes
    upload = one.figures.carriage.upload_s - other.figures.carriage.upload_s
    local, base = one.figures.encode, other.figures.encode
    encode = local.seconds - base.seconds if local.evidence == base.evidence else None
    same = abs(size) <= SAME_BYTES * max(1, other.figures.size.expected_bytes)
    return Apart(
        of_id=other.parcel.id,
        of_name=other.name,
        size_bytes=size,
        upload_s=upload,
        encode_s=encode,
        size_words="as large" if same else f"{size_text(abs(size))} {'larger' if size > 0 else 'smaller'}",
        time_words=_quicker(encode),
        seen=tuple(
            result
            for mine in one.seen
            if (theirs := other.on(mine.screen, mine.line)) and (result := _apart_on(mine, theirs))
        ),
    )


class PairSentence(Model):
    """What two lanes are against each other, on one screen and line."""

    screen: Screen
    line: ViewerLine
    sentence: str


def pair_sentences(one: Lane, other: Lane) -> tuple[PairSentence, ...]:
    """`one` against `other`, of the same master, for every screen and line: what arrives better and what it costs, as sentences."""
    differs = apart(one, other)
    words = {(seen.screen, seen.line): seen for seen in differs.seen}
    result = []
    for mine in one.seen:
        which, who = _pair_words(one, other, mine.screen, words.get((mine.screen, mine.line)))
        result.append(
            PairSentence(
                screen=mine.screen,
                line=mine.line,
                sentence=f"{which}; {who} is {differs.size_words}, {differs.time_words}.",
            )
        )
    return tuple(result)


def _pair_words(item: Lane, other: Lane, screen: Screen, seen: ApartSeen | None) -> tuple[str, str]:
    """Which of two arrives better, in words, and how `one` is called after that."""
    on = "a TV" if screen is Screen.TV else f"a {screen}"
    if seen is None:
        return f"Which of the two arrives better on {on} is not known before both were tested", "the first"
    if not seen.told:
        within = f"which would take more than {seen.band:.0f} points"
        return f"On {on} no difference can be told between {item.name} and {other.name}, {within}", "the first"
    faint = ", less than anyone notices" if abs(seen.points) < NOTICEABLE_STEP else ""
    better = f"{abs(seen.points):.0f} points {'better' if seen.points > 0 else 'worse'}"
    return f"On {on} {item.name} arrives {better} than {other.name}, give or take {seen.band:.0f}{faint}", "it"


def _quicker(seconds: float | None) -> str:
    if seconds is None:
        return "no telling which packs quicker"
    if abs(seconds) < 1:
        return "as quick to pack"
    whole = round(abs(seconds))
    length = f"{whole} s" if whole < 60 else f"{whole // 60} min {whole % 60} s"
    return f"{length} {'longer' if seconds > 0 else 'less'} to pack"


def _apart_on(mine: LaneSeen, theirs: LaneSeen) -> ApartSeen | None:
    if mine.at is None or theirs.at is None:
        return None
    points = round(mine.at.condition - theirs.at.condition, 1)
    band = paired_band((mine.at.evidence, mine.at.band), (theirs.at.evidence, theirs.at.band), points)
    evidence = min(mine.at.evidence, theirs.at.evidence, key=list(Evidence).index)
    words = is_told(points, band)
    return ApartSeen(
        screen=mine.screen,
        line=mine.line,
        points=points,
        band=round(band, 1),
        told=words,
        evidence=evidence,
        words=difference_words(points, band),
    )
