"""What became of a file on its way to another device: found among what was packed, and held beside it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from ..core.arrival.judged import Judged
from ..core.errors import BadInput
from ..core.parcel.handoff import Fingerprint, HandoffFound, PackedFile, Sameness, has_picture_of, has_sound_of, nearest, sameness, sentence
from ..media.fingerprint import decode_alike, fingerprint
from .comparing import compare_files

MEASURED = 40
"""Pictures that are judged of what was recompressed: it is to be told in words, not to the point."""


def handed_over(path: Path, known: Sequence[PackedFile], say: Callable[[float], None] = lambda share: None) -> HandoffFound:
    """What became of a packed file that came back as `path`. With one known file it is held beside that, with several the right one is
    found. Raises BadInput where none can be it, and what reading raises."""
    back = fingerprint(path)
    say(0.2)
    prints = [(one, found) for one in known if (found := one.fingerprint or _fingerprint(_there(one)))]
    if not prints:
        what, todo = "Nothing is known of what was packed.", "Give the packed file, or its receipt, to hold it against."
        raise BadInput(what, todo, code="nothing_packed")
    place = 0 if len(prints) == 1 else nearest(back, [one for _, one in prints])
    if place is None:
        raise BadInput(f"{path.name} is none of the files that were packed.", "Give the packed file to hold it against.", code="not_packed")
    mine, packed = prints[place]
    say(0.4)
    outcome, judged = sameness(packed, back), tuple[Judged, ...]()
    there = _there(mine)
    if outcome in (Sameness.RECOMPRESSED, Sameness.SOUND_CHANGED) and there:
        outcome = _looked_into(there, path, packed, back)
    if outcome is Sameness.RECOMPRESSED and there and back.height:
        _, judged = compare_files(there, path, lambda share: say(0.4 + 0.6 * share), most=MEASURED)
    return HandoffFound(
        outcome=outcome, sentence=sentence(outcome, mine.name, packed, back, judged), packed_name=mine.name, job_id=mine.job_id,
        judged=judged, packed=packed, back=back,
    )


def _looked_into(there: Path, path: Path, packed: Fingerprint, back: Fingerprint) -> Sameness:
    """The outcome once both are decoded: another container may cut the same picture and sound into other packets."""
    pictures = has_picture_of(packed, back) or (
        (packed.codec, packed.width, packed.height) == (back.codec, back.width, back.height) and decode_alike(there, path)
    )
    sound = has_sound_of(packed, back) or (
        packed.sound_codec == back.sound_codec and decode_alike(there, path, sound=True)
    )
    return sameness(packed, back, same_pictures=pictures, same_sound=sound)


def _fingerprint(path: Path | None) -> Fingerprint | None:
    return fingerprint(path) if path else None


def _there(one: PackedFile) -> Path | None:
    return one.path if one.path and one.path.is_file() else None
