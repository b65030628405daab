"""What becomes of the master's colours: what is converted to BT.709 in limited range, what is only labelled so, and what is a guess.

Primaries are those of H.273 Table 2, curves (transfer) of Table 3, matrices of Table 4. A curve that describes a screen, such as
that of sRGB, is labelled, not converted: screens show BT.709 films with a curve of their own that is as near to it.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..master.facts import ColourTags, MasterFacts
from ..stamps import Chosen, Source, chosen

SD_LINES = 720
SAME_CURVE = frozenset({"bt709", "smpte170m", "bt2020-10", "bt2020-12"})
CONVERTED_CURVES = frozenset({"smpte240m", "linear"})
CONVERTED_PRIMARIES = frozenset({"bt470m", "bt470bg", "smpte170m", "smpte240m", "bt2020", "smpte431", "smpte432"})
MATRIX_FAMILY = {"bt470bg": "bt470bg", "smpte170m": "smpte170m", "bt2020nc": "bt2020", "bt2020c": "bt2020"}
"""Primaries that go with a matrix where the file states none."""
NAMES = {
    "bt709": "BT.709", "bt470bg": "BT.601 of 625 lines", "smpte170m": "BT.601 of 525 lines", "bt470m": "BT.470 M",
    "smpte240m": "SMPTE 240M",
    "bt2020": "BT.2020", "bt2020nc": "BT.2020", "bt2020c": "BT.2020", "smpte431": "P3", "smpte432": "P3", "iec61966-2-1": "sRGB",
    "gamma22": "gamma 2.2", "gamma28": "gamma 2.8", "linear": "linear light", "fcc": "FCC", "gbr": "RGB",
}
BT_709 = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")


@dataclass(frozen=True, slots=True, kw_only=True)
class Colours:
    """The tags to write, and what the master's colours are read as; `only_labelled` names what could not be converted."""

    tags: Chosen[ColourTags]
    read_as: ColourTags
    only_labelled: tuple[str, ...] = ()


def colours(facts: MasterFacts) -> Colours:
    """What the master's colours are read as and what is made of them."""
    stated, reading = facts.video.colour, facts.mending.colour
    guessed = stated.untagged
    if reading is not None:
        stated, guessed = reading.tags, False
    sd = min(facts.video.display_width, facts.video.display_height) < SD_LINES
    matrix = stated.matrix or ("smpte170m" if sd else "bt709")
    primaries = stated.primaries or ("bt709" if guessed else MATRIX_FAMILY.get(matrix, "bt709"))
    transfer, full = stated.transfer or "bt709", stated.range == "pc"
    converted, labelled = _outcome(matrix, primaries, transfer)
    read_as = ColourTags(
        primaries=primaries if primaries in CONVERTED_PRIMARIES else "bt709", matrix=matrix,
        transfer=transfer if transfer in CONVERTED_CURVES else "bt709", range="pc" if full else "tv",
    )
    said = [f"{' and '.join(converted)} converted to BT.709"] if converted else []
    said += ["full range brought to limited"] if full else []
    said += [f"{one} only labelled BT.709" for one in labelled]
    if reading is not None:
        text, code, source = f"your reading, {reading.words}" + (f"; {'; '.join(said)}" if said else ""), "colour_read", Source.CREATOR
    elif guessed:
        text = f"master is untagged; {'SD taken as BT.601' if sd else 'HD taken as BT.709'}, a guess"
        text, code, source = text + (f"; {'; '.join(said)}" if said else ""), "colour_guessed", Source.STANDARD
    elif said:
        text, code, source = "; ".join(said), "colour_converted", Source.STANDARD
    else:
        tags = {"primaries": stated.primaries, "curve": stated.transfer, "matrix": stated.matrix}
        unstated = [kind for kind, tag in tags.items() if not tag]
        taken = f"; {' and '.join(unstated)} not stated, taken as BT.709" if unstated else ""
        text, code, source = f"as the master's tags{taken}", "colour_as_master", Source.MASTER
    return Colours(tags=chosen(BT_709, code, text, source), read_as=read_as, only_labelled=tuple(labelled))


def _outcome(matrix: str, primaries: str, transfer: str) -> tuple[list[str], list[str]]:
    """What is converted, and what cannot be, each with where it comes from."""
    converted, labelled = [], []
    if matrix != "bt709":
        converted.append(f"matrix ({NAMES.get(matrix, matrix)})")
    for kind, name, known, same in (
        ("primaries", primaries, CONVERTED_PRIMARIES, frozenset({"bt709"})), ("curve", transfer, CONVERTED_CURVES, SAME_CURVE),
    ):
        if name in known:
            converted.append(f"{kind} ({NAMES.get(name, name)})")
        elif name not in same:
            labelled.append(f"{kind} ({NAMES.get(name, name)})")
    return converted, labelled

