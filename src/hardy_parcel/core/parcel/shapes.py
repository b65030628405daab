"""One parcel's shape as the framing screen shows it: what is kept and lost, and how it stands on every viewer's screen."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from ..arrival.moments import Sufferer
from ..arrival.screens import Screen, filling_frame, frame_raster, picture_raster
from ..master.checks.evidence import Difficulty
from ..master.facts import Excerpt, Focus, FramingMode, MasterFacts
from ..plan.framing import Framing
from ..plan.plan import Plan
from ..sheets.sheet import Destination, Margins
from ..values import Model, Ratio, Rect, shape_text
from .parcel import Parcel


class Standing(Model):
    """A frame on one viewer's screen, in eye pixels of a sixtieth of a degree: the screen, the frame in it, the picture in that."""

    screen: Screen
    screen_width: int
    screen_height: int
    frame_width: int
    frame_height: int
    picture_width: int
    picture_height: int

    @property
    def height_share(self) -> float:
        """Share of the screen's height that the picture has."""
        return self.picture_height / self.screen_height


class Lost(Model):
    """Shares of the active picture that are cut away at its edges."""

    left: float
    top: float
    right: float
    bottom: float


class ShapeHere(Model):
    """A parcel's frame around the master: the wish, what comes of it, and its figures."""

    parcel_id: str
    destination_id: str
    name: str
    placement: str
    shape: str
    taken: str
    own: bool
    mode: FramingMode
    own_mode: FramingMode | None
    wished_shape: Ratio | None
    own_focus: Focus | None
    focus: Focus
    zoom: float
    framing: Framing
    window: Rect
    kept: float
    enlargement: float
    lost: Lost
    covered: Margins | None
    stands: tuple[Standing, ...]
    sentence: str


def standing(screen: Screen, framing: Framing) -> Standing:
    """How a frame stands on a screen; a phone is turned to suit an upright one."""
    wide, high = filling_frame(screen, upright=framing.height > framing.width)
    frame = frame_raster(screen, framing.width, framing.height)
    picture = picture_raster(screen, framing)
    return Standing(
        screen=screen,
        screen_width=wide,
        screen_height=high,
        frame_width=frame[0],
        frame_height=frame[1],
        picture_width=picture.width,
        picture_height=picture.height,
    )


def shape_here(parcel: Parcel, facts: MasterFacts, destination: Destination, plan: Plan) -> ShapeHere:
    """What the framing of one parcel comes to; the plan must have a picture."""
    framing, active, placement = plan.picture.framing.value, facts.active, destination.placement
    choices = parcel.choices
    crop, wish = framing.crop, choices.wish(facts)
    low, high = shape_text(placement.narrowest), shape_text(placement.widest)
    return ShapeHere(
        parcel_id=parcel.id,
        destination_id=destination.id,
        name=destination.sheet_name,
        placement=placement.name,
        shape=shape_text(framing.shape or Fraction(framing.width, framing.height)),
        taken=low if low == high else f"{low} to {high}",
        own=framing.mode is None,
        mode=framing.mode or wish.mode or FramingMode.FILL,
        own_mode=choices.framing,
        wished_shape=wish.shape,
        own_focus=choices.focus,
        focus=wish.focus,
        zoom=wish.zoom,
        framing=framing,
        window=_window(framing),
        kept=framing.kept_area(width=active.width, height=active.height),
        enlargement=framing.enlargement(),
        lost=Lost(
            left=(crop.x - active.x) / active.width,
            top=(crop.y - active.y) / active.height,
            right=(active.x + active.width - crop.x - crop.width) / active.width,
            bottom=(active.y + active.height - crop.y - crop.height) / active.height,
        ),
        covered=placement.covered,
        stands=tuple(standing(screen, framing) for screen in Screen),
        sentence=plan.picture.framing.because.sentence,
    )


def _window(framing: Framing) -> Rect:
    """The whole frame in the master's pixels: the crop, and beside it what becomes bars."""
    crop, picture = framing.crop, framing.picture
    scale = crop.width / picture.width
    return Rect(
        x=round(crop.x - picture.x * scale),
        y=round(crop.y - picture.y * scale),
        width=round(framing.width * scale),
        height=round(framing.height * scale),
    )


def shapes_sentence(shapes: Sequence[ShapeHere]) -> str:
    """What a knowledgeable friend would say of the shapes."""
    if not shapes:
        return "None of the chosen destinations takes a picture that is encoded; choose some that do."
    other = [item for item in shapes if not item.own]
    if not other:
        return "Every destination takes the picture's own shape; nothing is cut and no bars are needed."
    least = min(other, key=lambda item: item.kept)
    if least.kept > 0.995:
        return f"Nothing is cut: {len(other)} of {len(shapes)} shapes set the whole picture between bars or over its own blur."
    return (
        f"{least.name}, {least.placement} ({least.shape}), cuts most: {least.kept:.0%} of the picture is kept. "
        "Drag the focus to what must stay, then step through the film."
    )


def worst_moment(
    facts: MasterFacts, excerpt: Excerpt, difficulty: tuple[Difficulty, ...], sufferers: tuple[Sufferer, ...]
) -> tuple[int, str]:
    """The master's picture where packing has the hardest time, by its number, and how that is known."""
    rate = facts.video.frame_rate
    if sufferers:
        worst = min(sufferers, key=lambda item: item.condition)
        return round(worst.master_s * rate), "the moment that arrived worst when it was rehearsed"
    inside = [second for second in difficulty if excerpt.in_s <= second.at_s < excerpt.out_s]
    if inside:
        return round(
            max(inside, key=lambda second: second.level).at_s * rate
        ), "the second that is hardest to code, as the checks found it"
    return round(
        (excerpt.in_s + excerpt.out_s) / 2 * rate
    ), "the middle of the excerpt; the checks have not looked through it yet"
