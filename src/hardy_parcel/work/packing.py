"""One parcel packed for real: partial name, verify, checksum, then the final name."""

from __future__ import annotations

import base64
import os
import shutil
from collections.abc import Callable, Container, Mapping
from contextlib import suppress
from dataclasses import replace
from pathlib import Path, PurePath
from typing import Any

from ..core.errors import (
    DiskFull,
    EncoderTrouble,
    FolderUnusable,
    NameTaken,
    NotFound,
    PackedFileWrong,
    PlanChanged,
    UnreadableMaster,
)
from ..core.master.checks.evidence import SoundSurvey
from ..core.master.facts import MasterFacts
from ..core.parcel.drive import Drive
from ..core.parcel.receipt import PackedFacts, Receipt, compare, quality_found, sound_story
from ..core.plan.caps import MOST_TRIES, packed_again, too_large
from ..core.plan.carrying import file_size
from ..core.plan.choices import BESIDE, Method
from ..core.plan.naming import captions_beside, free_name
from ..core.plan.plan import Plan
from ..core.plan.sound_plan import below_the_limit
from ..core.plan.stages import JUDGING_TRIED_FROM
from ..core.values import Model, size_text
from ..media.captions import CueTracks, planned_captions, read_captions, write_captions
from ..media.fingerprint import fingerprint
from ..media.inspect import content_id
from ..media.loudness import measure_loudness
from ..media.pack import Progress, Report, make_sound_again, pack
from ..media.trouble import reading, writing
from ..media.verify import read_back
from ..store.drives import check_same
from ..store.files import flush, give_name
from ..store.places import usable_folder
from .judging import judge_packed, judging_s

PARTIAL = (".parcel-", ".partial")


def partial_path(folder: Path, job_id: str) -> Path:
    """The name a parcel has until it is verified; no player or uploader takes its ending for a film."""
    return folder / f"{PARTIAL[0]}{job_id}{PARTIAL[1]}"


def sweep(folder: Path, job_ids: Container[str]) -> bool:
    """Remove what these jobs left unfinished in a folder; False where that cannot be had now, the folder being away or not to be
    written to."""
    try:
        for name in os.listdir(folder):
            if name.startswith(PARTIAL[0]) and name.removeprefix(PARTIAL[0]).split(PARTIAL[1])[0] in job_ids:
                (folder / name).unlink(missing_ok=True)
    except OSError:
        return False
    return True


def choose_name(folder: Path, stem: str, extension: str, promised: set[str], *, beside: tuple[str, ...] = ()) -> str:
    """A name that neither exists in `folder` nor is promised to a waiting job, nor do those `beside` it, which end so after its stem."""
    return free_name(stem, extension, lambda name: bool(taken_names(folder, name, beside, promised)))


def taken_names(folder: Path, name: str, beside: tuple[str, ...], promised: set[str]) -> list[str]:
    """Of a file and those beside it the names that are not free; with any beside it, no other waiting file may share its stem."""
    stem = PurePath(name).stem
    found = [one for one in (name, *(f"{stem}.{ending}" for ending in beside)) if (folder / one).exists()]
    return found + [one for one in promised if one == name or (beside and PurePath(one).stem == stem)]


def check_room(folder: Path, plan: Plan, awaited: int = 0) -> None:
    """Raises DiskFull when the worst case does not fit on the disk beside the bytes that are `awaited` there already."""
    free, worst = shutil.disk_usage(folder).free, file_size(plan).worst_bytes
    if free < awaited + worst * 1.05:
        others = f", and {size_text(awaited)} of it are for what waits already" if awaited else ""
        raise DiskFull(
            f"{folder} has {size_text(free)} free{others}; this parcel may need {size_text(worst)}.",
            "Free some space or choose another output folder.",
        )


def awaited_on_disk(folder: Path, awaited: Mapping[str, int]) -> int:
    """Of the bytes that are awaited in each folder those that come to the disk of this one."""
    disk = folder.stat().st_dev
    found = 0
    for name, size in awaited.items():
        with suppress(OSError):
            found += size if os.stat(name).st_dev == disk else 0
    return found


def pack_parcel(
    master: Path,
    facts: MasterFacts,
    plan: Plan,
    *,
    folder: Path,
    file_name: str,
    job_id: str,
    report: Report,
    heard: SoundSurvey | None = None,
    serves: tuple[str, ...] = (),
    numbered: bool = False,
    noted: bool = False,
    drive: Drive | None = None,
) -> Receipt:
    """Pack, verify, and only then give the file its name. Nothing is left behind when it fails or is stopped.

    A file that passes its cap is packed again with what was learned, and held (OverCap) if that does not help. Where
    lossy coding lifts the sound over the peak limit, the sound is made again, quieter by as much. Captions that go beside it get their
    names just before it does. A name that is taken is refused, or with `numbered` the next free one taken. `heard` is what was
    measured along the master's sound; with `noted` word of the file stays beside it, for `finish`. With a `drive` the folder must lie on
    that one. Raises FolderUnusable, NameTaken,
    DiskFull, PlanHeld, PlanChanged where the master is another film by now, UnreadableMaster, EncoderTrouble, PackedFileWrong, or what
    `report` raises.
    """
    usable_folder(folder)
    if drive:
        check_same(folder, drive)
    endings = captions_beside(plan)
    if taken := taken_names(folder, file_name, endings, set()):
        if not numbered:
            raise NameTaken(f"{folder} already has a file {taken[0]}.", "Nothing was overwritten; choose another name.")
        file_name = _next_name(folder, file_name, endings)
    check_room(folder, plan)
    _same_film(master, facts)
    partial = partial_path(folder, job_id)
    beside = partial.with_name(f"{partial.name}2")
    partial.unlink(missing_ok=True)
    captions = planned_captions(master, plan, start_s=facts.video.start_s)
    note = _note_path(folder, job_id)
    try:
        _tell_judging(master, facts, plan, report)
        packed = pack(master, facts, plan, partial, report=report, captions=captions)
        tries = 1
        while (size := partial.stat().st_size) > plan.size_cap.value:
            if tries >= MOST_TRIES:
                raise too_large(plan, size)
            plan = packed_again(plan, size_bytes=size, video_bytes=packed.video_bytes, tries=tries)
            packed = pack(master, facts, plan, partial, report=_again(report, tries), captions=captions)
            tries += 1
        same_as = master if plan.method.value is Method.UNTOUCHED else None
        ceiling = plan.video.ceiling_bps.value if plan.video else None
        readback = read_back(partial, master=same_as, through_bps=ceiling, say=_reading_back(report, plan, size))
        plan, mended = _below_its_peak_limit(partial, beside, master, facts, plan, readback, captions)
        if mended:
            readback = read_back(partial, through_bps=ceiling)
        if (size := partial.stat().st_size) > plan.size_cap.value:
            raise too_large(plan, size)
        _same_film(master, facts)
        texts = _write_beside(partial, plan, captions)
        readback = readback.model_copy(update={"captions": _captions_in(texts or [partial], plan)})
        rows = compare(plan, readback, captions=tuple(len(cues) for cues in captions))
        rows += () if packed.quality is None else (quality_found(packed.quality),)
        known_by = fingerprint(partial)
        seen = _judged(master, facts, plan, partial, report)
        receipt = Receipt(
            file_name=file_name,
            folder=str(folder),
            size_bytes=partial.stat().st_size,
            sha256=known_by.sha256,
            fingerprint=known_by,
            encode_s=round(packed.seconds, 3),
            pictures=packed.pictures,
            rows=rows,
            tries=tries,
            sound=sound_story(plan, readback, heard),
            serves=serves,
            **seen,
        )
        if any(
            row.code in ("pictures", "codec", "profile", "size", "duration", "identical", "captions")
            for row in receipt.differing
        ):
            names = ", ".join(row.setting.lower() for row in receipt.differing)
            raise PackedFileWrong(f"The packed file is not as planned: {names}.", "It was not kept; try again.")
        receipt = _named(receipt, partial, dict(zip(endings, texts, strict=True)), note, numbered=numbered)
        noted = noted and note.exists()
    except BaseException as error:
        noted = False
        if _of_the_folder(error, folder):
            what = f"{folder} went away while {file_name} was being packed."
            raise FolderUnusable(what, "Bring it back, or choose another output folder.") from error
        raise
    finally:
        for left in (partial, beside, *_partial_texts(partial, endings), *([] if noted else [note])):
            with suppress(
                OSError
            ):  # a folder that went away or may not be written to any more: swept when it is there again
                left.unlink(missing_ok=True)
    return receipt


def _of_the_folder(error: BaseException, folder: Path) -> bool:
    """Whether what is not there is our own unfinished file, and with it where it stood."""
    cause = error.__cause__ if isinstance(error, NotFound) else error
    missing = (cause.filename if isinstance(cause, FileNotFoundError) else None) or ""
    return Path(os.fsdecode(missing)).parent == folder


def _judged(master: Path, facts: MasterFacts, plan: Plan, packed: Path, report: Report) -> dict[str, Any]:
    """What a receipt says of how the file looks; nothing where that cannot be measured, which is no fault of the file."""
    size = packed.stat().st_size

    def say(share: float) -> None:
        report(Progress(done=round(share * 100), total=100, bytes=size, judging=True))

    try:
        found = judge_packed(master, facts, plan, packed, say)
    except (UnreadableMaster, EncoderTrouble):
        return {}
    if found is None:
        return {}
    stills = tuple(base64.b64encode(one).decode() for one in (found.before, found.after))
    return {"judged": found.judged, "judged_pictures": found.pictures, "poorest_s": found.poorest_s, "stills": stills}


def _tell_judging(master: Path, facts: MasterFacts, plan: Plan, report: Report) -> None:
    """Try one run of what is judged at the end, of films that are long enough, so that the time that is left can be told."""
    if plan.video is None or plan.video.frames < JUDGING_TRIED_FROM:
        return
    with suppress(UnreadableMaster, EncoderTrouble):  # packing meets it again, and says it
        report(Progress(done=0, total=1, bytes=0, judging_s=judging_s(master, facts, plan)))


def _same_film(master: Path, facts: MasterFacts) -> None:
    """Raises PlanChanged where the master is not what was planned any more, UnreadableMaster or NotFound where it cannot be read."""
    with reading(master):
        now = content_id(master)
    if now != facts.content_id:
        raise PlanChanged(
            f"{master.name} is not the film that was planned any more.",
            "Look at its plan again, then pack it.",
            code="master_changed",
        )


class Part(Model):
    """One file that is ready under its partial name: the final name that it gets, its size in bytes and when it was written (ns)."""

    partial: str
    name: str
    size_bytes: int
    written_ns: int

    @classmethod
    def of(cls, partial: Path, name: str) -> Part:
        found = partial.stat()
        return cls(partial=partial.name, name=name, size_bytes=found.st_size, written_ns=found.st_mtime_ns)

    def is_at(self, path: Path) -> bool:
        """Whether a file is this one; no copy and no other file was written in the same billionth of a second."""
        try:
            found = path.stat()
        except OSError:
            return False
        return (found.st_size, found.st_mtime_ns) == (self.size_bytes, self.written_ns)


class ReadyFile(Model):
    """Word of files that are whole and only want their names, the film last: kept beside them until the receipt is, so that whoever
    comes after a kill at any moment can finish."""

    receipt: Receipt
    parts: tuple[Part, ...]


def _note_path(folder: Path, job_id: str) -> Path:
    path = partial_path(folder, job_id)
    return path.with_name(f"{path.name}-ready")


def only_wants_its_name(folder: Path, job_id: str) -> bool:
    """Whether a killed job left word of a whole file there."""
    return _note_path(folder, job_id).exists()


def _next_name(folder: Path, file_name: str, endings: tuple[str, ...]) -> str:
    stem, extension = file_name.rsplit(".", 1)
    return choose_name(folder, stem, extension, set(), beside=endings)


def _named(receipt: Receipt, partial: Path, texts: dict[str, Path], note: Path, *, numbered: bool) -> Receipt:
    """Flush everything to the disk, leave word of it, then give the final names; the receipt with the names it came to."""
    folder = partial.parent
    with writing(folder / receipt.file_name):
        for path in (*texts.values(), partial):
            flush(path)
        while True:
            stem = PurePath(receipt.file_name).stem
            receipt = receipt.model_copy(update={"beside": tuple(f"{stem}.{ending}" for ending in texts)})
            parts = [Part.of(path, name) for path, name in zip(texts.values(), receipt.beside, strict=True)]
            ready = ReadyFile(receipt=receipt, parts=(*parts, Part.of(partial, receipt.file_name)))
            note.write_text(ready.model_dump_json())
            flush(note)
            flush(folder)
            try:
                _give_names(folder, ready)
                return receipt
            except NameTaken:
                if not numbered:
                    raise
                receipt = receipt.model_copy(update={"file_name": _next_name(folder, receipt.file_name, tuple(texts))})


def _give_names(folder: Path, ready: ReadyFile) -> None:
    """Final names to all parts; those that have them already are left, and none is kept where one cannot get its own."""
    given: list[Path] = []
    try:
        for part in ready.parts:
            if not part.is_at(folder / part.name):
                give_name(folder / part.partial, folder / part.name)
                given.append(folder / part.name)
        flush(folder)
    except BaseException:
        for path, part in zip(given, ready.parts, strict=False):
            path.rename(folder / part.partial)
        raise


def finish(folder: Path, job_id: str) -> Receipt | None:
    """The receipt of a file that was whole when its job was killed, which has its name now; None where there is no such file."""
    try:
        ready = ReadyFile.model_validate_json(_note_path(folder, job_id).read_text())
        if not all(part.is_at(folder / part.name) or part.is_at(folder / part.partial) for part in ready.parts):
            return None
        _give_names(folder, ready)
    except (OSError, ValueError, NameTaken):
        return None
    return ready.receipt


def _partial_texts(partial: Path, endings: tuple[str, ...]) -> list[Path]:
    return [partial.with_name(f"{partial.name}-captions{number}") for number in range(len(endings))]


def _captions_in(paths: list[Path], plan: Plan) -> tuple[int, ...]:
    """How many captions stand in each track of the packed file, or of the files beside it."""
    if plan.captions.value is None:
        return ()
    kind = plan.captions.value if plan.captions.value in BESIDE else None
    return tuple(len(cues) for path in paths for cues in read_captions(path, kind=kind))


def _write_beside(partial: Path, plan: Plan, captions: CueTracks) -> list[Path]:
    """Captions in files of their own, under names that are not final yet."""
    if plan.captions.value not in BESIDE:
        return []
    texts = _partial_texts(partial, captions_beside(plan))
    for text, cues in zip(texts, captions, strict=True):
        write_captions(text, plan.captions.value, cues)
    return texts


def _below_its_peak_limit(
    partial: Path, beside: Path, master: Path, facts: MasterFacts, plan: Plan, packed: PackedFacts, captions: CueTracks
) -> tuple[Plan, bool]:
    """The sound made anew, quieter, until its peak keeps below the limit; the plan it has then, and whether anything was done."""
    peak, tries = packed.facts.audio.true_peak_dbtp if packed.facts.audio else None, 0
    while quieter := below_the_limit(plan, peak, tries):
        beside.unlink(missing_ok=True)
        try:
            make_sound_again(partial, master, facts, quieter, beside, captions)
        except DiskFull:  # what is packed stays, and its receipt says that the peak differs
            break
        beside.replace(partial)
        plan, tries = quieter, tries + 1
        peak = measure_loudness(partial).true_peak_dbtp
    return plan, tries > 0


def _again(report: Report, tries: int) -> Report:
    """The same report, which says that it is another try."""
    return lambda progress: report(replace(progress, again=tries))


def _reading_back(report: Report, plan: Plan, size: int) -> Callable[[int], None]:
    """The same report, of a file that is read back."""
    pictures = plan.video.frames if plan.video else 0
    return lambda done: report(
        Progress(done=min(done, pictures), total=max(1, pictures), bytes=size, reading_back=True)
    )
