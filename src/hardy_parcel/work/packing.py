"""One parcel packed for real: partial name, verify, checksum, then the final name."""

from __future__ import annotations

import os
import shutil
from dataclasses import replace
from pathlib import Path, PurePath

from ..core.errors import DiskFull, NameTaken, PackedFileWrong
from ..core.master.checks.evidence import SoundSurvey
from ..core.master.facts import MasterFacts
from ..core.parcel.receipt import PackedFacts, Receipt, compare, quality_found, sound_story
from ..core.plan.caps import MOST_TRIES, packed_again, too_large
from ..core.plan.carrying import file_size
from ..core.plan.choices import BESIDE, Method
from ..core.plan.naming import captions_beside, free_name
from ..core.plan.plan import Plan
from ..core.plan.sound_plan import below_the_limit
from ..core.values import size_text
from ..media.captions import CueTracks, planned_captions, read_captions, write_captions
from ..media.loudness import measure_loudness
from ..media.pack import Report, make_sound_again, pack
from ..media.trouble import writing
from ..media.verify import read_back, sha256
from ..store.files import give_name
from ..store.places import usable_folder


def partial_path(folder: Path, job_id: str) -> Path:
    """The name a parcel has until it is verified; no player or uploader takes its ending for a film."""
    return folder / f".parcel-{job_id}.partial"


def choose_name(folder: Path, stem: str, extension: str, promised: set[str], *, beside: tuple[str, ...] = ()) -> str:
    """A name that neither exists in `folder` nor is promised to a waiting job, nor do those `beside` it, which end so after its stem."""
    return free_name(stem, extension, lambda name: bool(taken_names(folder, name, beside, promised)))


def taken_names(folder: Path, name: str, beside: tuple[str, ...], promised: set[str]) -> list[str]:
    """Of a file and those beside it the names that are not free; with any beside it, no other waiting file may share its stem."""
    stem = PurePath(name).stem
    found = [one for one in (name, *(f"{stem}.{ending}" for ending in beside)) if (folder / one).exists()]
    return found + [one for one in promised if one == name or (beside and PurePath(one).stem == stem)]


def check_room(folder: Path, plan: Plan) -> None:
    """Raises DiskFull when the worst case does not fit on the disk."""
    free, worst = shutil.disk_usage(folder).free, file_size(plan).worst_bytes
    if free < worst * 1.05:
        raise DiskFull(
            f"{folder} has {size_text(free)} free and this parcel may need {size_text(worst)}.",
            "Free some space or choose another output folder.",
        )


def pack_parcel(
    master: Path, facts: MasterFacts, plan: Plan, *, folder: Path, file_name: str, job_id: str, report: Report,
    heard: SoundSurvey | None = None, serves: tuple[str, ...] = (),
) -> Receipt:
    """Pack, verify, and only then give the file its name. Nothing is left behind when it fails or is stopped.

    A file that passes its cap is packed again with what was learned, and held (OverCap) if that does not help. Where
    lossy coding lifts the sound over the peak limit, the sound is made again, quieter by as much. Captions that go beside it get their
    names just before it does. `heard` is what was
    measured along the master's sound. Raises FolderUnusable, NameTaken, DiskFull, PlanHeld,
    UnreadableMaster, EncoderTrouble, PackedFileWrong, or what `report` raises.
    """
    usable_folder(folder)
    final = folder / file_name
    endings = captions_beside(plan)
    if taken := taken_names(folder, file_name, endings, set()):
        raise NameTaken(f"{folder} already has a file {taken[0]}.", "Nothing was overwritten; choose another name.")
    check_room(folder, plan)
    partial = partial_path(folder, job_id)
    beside = partial.with_name(f"{partial.name}2")
    partial.unlink(missing_ok=True)
    named: list[Path] = []
    captions = planned_captions(master, plan, start_s=facts.video.start_s)
    try:
        packed = pack(master, facts, plan, partial, report=report, captions=captions)
        tries = 1
        while (size := partial.stat().st_size) > plan.size_cap.value:
            if tries >= MOST_TRIES:
                raise too_large(plan, size)
            plan = packed_again(plan, size_bytes=size, video_bytes=packed.video_bytes, tries=tries)
            packed = pack(master, facts, plan, partial, report=_again(report, tries), captions=captions)
            tries += 1
        readback = read_back(partial, master=master if plan.method.value is Method.UNTOUCHED else None)
        plan, mended = _below_its_peak_limit(partial, beside, master, facts, plan, readback, captions)
        if mended:
            readback = read_back(partial)
        if (size := partial.stat().st_size) > plan.size_cap.value:
            raise too_large(plan, size)
        texts = _write_beside(partial, plan, captions)
        readback = readback.model_copy(update={"captions": _captions_in(texts or [partial], plan)})
        rows = compare(plan, readback, captions=tuple(len(cues) for cues in captions))
        rows += () if packed.quality is None else (quality_found(packed.quality),)
        receipt = Receipt(
            file_name=file_name, folder=str(folder), size_bytes=partial.stat().st_size, sha256=sha256(partial),
            encode_s=round(packed.seconds, 3), pictures=packed.pictures, rows=rows, tries=tries,
            sound=sound_story(plan, readback, heard), serves=serves, beside=tuple(f"{final.stem}.{ending}" for ending in endings),
        )
        if any(row.code in ("pictures", "codec", "profile", "size", "duration", "identical", "captions") for row in receipt.differing):
            names = ", ".join(row.setting.lower() for row in receipt.differing)
            raise PackedFileWrong(f"The packed file is not as planned: {names}.", "It was not kept; try again.")
        for text, name in zip(texts, receipt.beside, strict=True):
            _give_name(text, final.with_name(name))
            named.append(final.with_name(name))
        _give_name(partial, final)
        named.clear()
    finally:
        for left in (partial, beside, *_partial_texts(partial, endings), *named):
            left.unlink(missing_ok=True)
    return receipt


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


def _give_name(partial: Path, final: Path) -> None:
    """Flush to disk, then give the final name, which fails if it has come to exist meanwhile."""
    with writing(final):
        with open(partial, "rb+") as file:
            os.fsync(file.fileno())
        give_name(partial, final)
        directory = os.open(final.parent, os.O_RDONLY)
        try:
            os.fsync(directory)
        finally:
            os.close(directory)
