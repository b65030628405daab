"""What a platform makes of a file that it took, for real: its renditions with their sound, one after the other."""

from __future__ import annotations

import contextlib
import heapq
import shutil
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from ..core.arrival.receiving import AS_IT_IS, Received, ReceivedSound, Rendered
from ..core.master.facts import FileFacts, MasterFacts
from ..core.plan.as_it_is import whole_picture
from ..core.plan.framing import Framing
from .handling import handle, rendition_path, upload_pictures
from .pictures import Treatment, pictures_at
from .trouble import open_film, reading, writing

SOUND_RATE_HZ = 48_000
Say = Callable[[str, float], None]


def render(
    path: Path, facts: FileFacts, received: Received, folder: Path, *, say: Say = lambda doing, share: None
) -> Iterator[Rendered]:
    """Make in `folder`, which must be empty, what viewers get of a file, each as soon as it is whole. `say` hears what is being done and
    its share of all, and may raise. Raises NotFound, UnreadableMaster, DiskFull, FolderUnusable or EncoderTrouble."""
    if received.as_it_is:
        target = folder / f"as-it-is{path.suffix}"
        try:
            with writing(target):
                shutil.copyfile(path, target)
        except BaseException:
            target.unlink(missing_ok=True)
            raise
        yield _rendered(AS_IT_IS, target, *((facts.video.display_width, facts.video.display_height) if facts.video else (0, 0)))
        return
    with contextlib.ExitStack() as leaving:
        sound: Path | None = path if facts.audio else None
        if received.sound and facts.audio:
            sound = folder / "sound.m4a"
            say("making the sound anew", 0.0)
            leaving.callback(sound.unlink, missing_ok=True)
            _sound_anew(path, received.sound, facts.audio.channels, sound)
        if not isinstance(facts, MasterFacts):
            leaving.pop_all()
            yield _rendered("sound", sound or path)
            return
        yield from _renditions(path, facts, received, folder, sound, say)


def _renditions(path: Path, facts: MasterFacts, received: Received, folder: Path, sound: Path | None, say: Say) -> Iterator[Rendered]:
    weights = [one.width * one.height for one in received.renditions]
    pictures = facts.video.pictures or max(1, round(facts.duration_s * facts.video.frame_rate))
    for number, rendition in enumerate(received.renditions):
        before, own = sum(weights[:number]) / sum(weights), weights[number] / sum(weights)

        def told(done: int, name: str = rendition.name, before: float = before, own: float = own) -> None:
            say(f"making {name}", before + own * min(1.0, done / pictures))

        made = rendition_path(folder, rendition)
        together = made.with_name(f"{made.stem}.whole.mp4")
        try:
            [_] = handle(
                _shaped(path, facts, received), [rendition], folder, size=(received.width, received.height),
                frame_rate=facts.video.frame_rate, progress=told,
            )
            _together(made, sound, together)
            made.unlink()
        except BaseException:
            for unfinished in (made, together):
                unfinished.unlink(missing_ok=True)
            raise
        yield _rendered(rendition.name, together.rename(made.with_suffix(".mp4")), rendition.width, rendition.height)


def _rendered(name: str, path: Path, width: int = 0, height: int = 0) -> Rendered:
    return Rendered(name=name, path=path, width=width, height=height, size_bytes=path.stat().st_size)


def _shaped(path: Path, facts: MasterFacts, received: Received) -> Iterator[av.VideoFrame]:
    """Every picture of the file in the frame that it gets; as it was decoded where nothing of it is changed, as a rehearsal has it."""
    video, crop, picture = facts.video, received.crop, received.picture
    if crop is None or picture is None:
        return
    whole = (video.coded_width, video.coded_height) == (received.width, received.height) == (crop.width, crop.height)
    if whole and not video.rotation_deg and video.sample_aspect_ratio == 1 and video.pixel_format == "yuv420p":
        yield from _pictures(path, facts)
        return
    plan = whole_picture(facts)
    framing = Framing(mode=None, width=received.width, height=received.height, crop=crop, picture=picture)
    plan = plan.model_copy(update={"framing": plan.framing.model_copy(update={"value": framing})})
    treatment = Treatment(video, plan, frame=True)
    for number, frame in enumerate(_pictures(path, facts)):
        yield treatment(frame, number)


def _pictures(path: Path, facts: MasterFacts) -> Iterator[av.VideoFrame]:
    """Every picture of the file; of one whose rate varies those of the constant rate that fits it best, so that it keeps to its sound."""
    video = facts.video
    if not video.variable_rate:
        return upload_pictures(path)
    count = max(1, int(facts.duration_s * video.frame_rate))
    return pictures_at(path, ((number + Fraction(1, 4)) / video.frame_rate for number in range(count)), start_s=video.start_s)


def _sound_anew(path: Path, made: ReceivedSound, channels: int, target: Path) -> None:
    """The sound in AAC, turned by its gain; what would pass full scale is held there."""
    layout, factor = "mono" if channels == 1 else "stereo", 10 ** (made.gain_db / 20)
    with writing(target), reading(path), open_film(path) as source, av.open(str(target), "w", format="mp4") as container:
        talk: Any = container.add_stream("aac", rate=SOUND_RATE_HZ)
        talk.bit_rate, talk.layout = made.bitrate_bps, layout
        resampler = av.AudioResampler(format="fltp", layout=layout, rate=SOUND_RATE_HZ, frame_size=1024)
        sent = 0
        for frame in (*source.decode(audio=0), None):
            for block in resampler.resample(frame):
                samples = np.clip(block.to_ndarray() * factor, -1, 1).astype(np.float32)
                turned = av.AudioFrame.from_ndarray(samples, format="fltp", layout=layout)
                turned.sample_rate, turned.pts, turned.time_base = SOUND_RATE_HZ, sent, Fraction(1, SOUND_RATE_HZ)
                sent += samples.shape[1]
                container.mux(talk.encode(turned))
        container.mux(talk.encode(None))


def _together(pictures: Path, sound: Path | None, target: Path) -> None:
    """Picture and sound in one file, packet by packet in their time."""
    with writing(target), av.open(str(pictures)) as film, av.open(str(target), "w", format="mp4") as made:
        streams = [film.streams.video[0]]
        if sound is None:
            _copy(made, streams)
            return
        with reading(sound), open_film(sound) as heard:
            _copy(made, [*streams, heard.streams.audio[0]])


def _copy(made: Any, streams: list[Any]) -> None:
    copies = {id(stream): made.add_stream_from_template(stream) for stream in streams}

    def packets(stream: Any) -> Iterator[tuple[float, int, Any]]:
        for count, packet in enumerate(stream.container.demux(stream)):
            if packet.dts is not None:
                yield float(packet.dts * packet.time_base), count, packet

    for _, _, packet in heapq.merge(*(packets(stream) for stream in streams), key=lambda one: one[0]):
        packet.stream = copies[id(packet.stream)]
        made.mux(packet)
