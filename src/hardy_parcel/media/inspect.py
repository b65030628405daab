"""Reads a file's facts: the header without decoding, one picture, and the sound's loudness."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
import numpy as np

from ..core.errors import UnreadableMaster
from ..core.master.facts import (
    AudioFacts,
    CaptionTrack,
    ColourTags,
    FileFacts,
    MasterFacts,
    Scan,
    VideoFacts,
    best_constant_rate,
    display_size,
    usual_rate,
)
from .boxes import BoxFacts, read_boxes
from .loudness import measure_loudness
from .trouble import open_film, reading

# H.273 code points (07/2021, tables 2 to 4); 2 is "unspecified" and means untagged.
PRIMARIES = {1: "bt709", 4: "bt470m", 5: "bt470bg", 6: "smpte170m", 7: "smpte240m", 9: "bt2020", 11: "smpte431", 12: "smpte432"}
TRANSFERS = {1: "bt709", 4: "gamma22", 5: "gamma28", 6: "smpte170m", 7: "smpte240m", 8: "linear", 13: "iec61966-2-1",
             14: "bt2020-10", 15: "bt2020-12", 16: "smpte2084", 18: "arib-std-b67"}
MATRICES = {0: "gbr", 1: "bt709", 4: "fcc", 5: "bt470bg", 6: "smpte170m", 7: "smpte240m", 9: "bt2020nc", 10: "bt2020c"}
RANGES = {1: "tv", 2: "pc"}
CONTAINERS = {"mov,mp4,m4a,3gp,3g2,mj2": "MP4/MOV", "matroska,webm": "MKV/WebM", "avi": "AVI", "mpegts": "MPEG-TS"}
OWN_NAMES = {"dnxhd": "vc3"}
"""Codecs that the library calls otherwise than their standard does."""
LARGEST_SIDE = 16384
INDEXED = ("mov,", "avi")
"""Containers whose index names every picture; others index keyframes at most."""
TIMED_PACKETS, TIMED_PLACES = 240, 5
NEAR_END_S = 2
"""Where the end of a stream that states no duration is looked for, s before that of the file; from the keyframe before."""
MOST_INDEXED, MOST_KEYFRAMES = 400_000, 5_000
"""Longer indexes are not searched for keyframes, and more keyframes are not kept."""
INDEX_BLOCKS, INDEX_BLOCK = 24, 500
"""A long index is looked at in blocks spread over the film; a short one whole."""


def inspect(path: Path, *, loudness: bool = True) -> MasterFacts:
    """The facts of a master. Raises NotFound or UnreadableMaster with a clear sentence."""
    facts = read_file(path, loudness=loudness)
    if not isinstance(facts, MasterFacts):
        raise UnreadableMaster(f"{path.name} has no picture.", "Choose a file with a film in it.", code="no_picture")
    return facts


def read_file(path: Path, *, loudness: bool = True) -> FileFacts:
    """The facts of a film (MasterFacts) or of a file that has only sound. Raises NotFound or UnreadableMaster."""
    if not path.exists() or path.is_dir():
        with reading(path):
            open(path, "rb").close()
    size = path.stat().st_size
    if size == 0:
        raise UnreadableMaster(f"{path.name} is empty.", "Check that the copy or the export finished.")
    boxes = read_boxes(path)
    if boxes.is_mp4 and boxes.index_first is None:
        raise UnreadableMaster(
            f"{path.name} is not finished: its index, which is written last, is missing.",
            "Wait until the copy or the export has ended, or make it again.", code="unfinished",
        )
    with reading(path), open_film(path) as container:
        stream = next(_picture_streams(container), None)
        video = index = None
        if stream is not None:
            index = _read_index(stream) if container.format.name.startswith(INDEXED) else None
            _check_complete(index, size, path)
            video = _video(container, stream, index, boxes, path)
        audio = _audio(container)
        if video is None and audio is None:
            raise UnreadableMaster(f"{path.name} has neither picture nor sound.", "Choose a film.", code="no_picture")
        duration = _duration(container, stream, video)
        facts = {
            "name": path.name, "size_bytes": size, "content_id": content_id(path), "duration_s": duration,
            "container": CONTAINERS.get(container.format.name, container.format.long_name),
            "bitrate_bps": round(size * 8 / float(duration)), "video": video,
            "sound_streams": len(container.streams.audio), "chapters": len(container.chapters()),
            "captions": _captions(container), "timecode": _timecode(container),
            "edit_list": boxes.edit_list, "fast_start": boxes.index_first,
        }
    if loudness and audio:
        audio = audio.model_copy(update=measure_loudness(path).as_facts())
    return (MasterFacts if video else FileFacts)(**facts, audio=audio)


def _captions(container: av.container.InputContainer) -> tuple[CaptionTrack, ...]:
    return tuple(
        CaptionTrack(codec=track.codec_context.name, language=track.language or "", text=track.codec_context.codec.text_sub)
        for track in container.streams.subtitles if track.codec_context is not None
    )


def content_id(path: Path) -> str:
    """Identity of a file's content: its size and its first and last mebibyte, hashed."""
    size, block = path.stat().st_size, 1 << 20
    digest = hashlib.sha256(str(size).encode())
    with open(path, "rb") as file:
        digest.update(file.read(block))
        if size > block:
            file.seek(max(block, size - block))
            digest.update(file.read(block))
    return digest.hexdigest()[:24]


def picture_stream(container: av.container.InputContainer, path: Path) -> av.VideoStream:
    """The first moving-picture stream; a cover image is not one."""
    for stream in _picture_streams(container):
        return stream
    raise UnreadableMaster(f"{path.name} has no picture.", "Choose a file with a film in it.", code="no_picture")


def _picture_streams(container: av.container.InputContainer) -> Iterator[av.VideoStream]:
    for stream in container.streams.video:
        attached = int(stream.disposition) & int(av.stream.Disposition.attached_pic)
        if not attached and stream.codec_context is not None and stream.codec_context.width:
            yield stream


@dataclass(frozen=True, slots=True, kw_only=True)
class _Index:
    """Runs of neighbouring decode time stamps (in units of the time base) and what the entries say together."""

    runs: list[np.ndarray]
    count: int
    bytes_seen: int
    entries_seen: int
    last_byte: int
    keyframes: tuple[int, ...] = ()
    intra: bool = False


def _read_index(stream: av.VideoStream) -> _Index | None:
    """The demultiplexer's index, without reading a packet; None when it has none."""
    entries = stream.index_entries
    count = len(entries)
    if count < 3:
        return None
    if count <= INDEX_BLOCKS * INDEX_BLOCK:
        blocks = [range(count)]
    else:
        step = (count - INDEX_BLOCK) / (INDEX_BLOCKS - 1)
        blocks = [range(int(i * step), int(i * step) + INDEX_BLOCK) for i in range(INDEX_BLOCKS)]
    runs, size, last, seen = [], 0, 0, 0
    for block in blocks:
        stamps = []
        for place in block:
            entry = entries[place]
            stamps.append(entry.timestamp)
            size += entry.size
            last = max(last, entry.pos + entry.size)
        runs.append(np.array(stamps, np.int64))
        seen += len(block)
    keyframes = tuple(place for place in range(count) if entries[place].is_keyframe) if count <= MOST_INDEXED else ()
    return _Index(
        runs=runs, count=count, bytes_seen=size, entries_seen=seen, last_byte=last,
        keyframes=keyframes if len(keyframes) <= min(MOST_KEYFRAMES, count - 1) else (), intra=len(keyframes) == count,
    )


def _check_complete(index: _Index | None, size: int, path: Path) -> None:
    if index and index.last_byte > size + 16:
        raise UnreadableMaster(
            f"{path.name} is cut short: its index names {index.last_byte / 1e6:.1f} MB and the file has {size / 1e6:.1f} MB.",
            "Copy or export it again.", code="truncated",
        )


def _video(container: Any, stream: av.VideoStream, index: _Index | None, boxes: BoxFacts, path: Path) -> VideoFacts:
    context = stream.codec_context
    if max(context.width, context.height) > LARGEST_SIDE:
        raise UnreadableMaster(
            f"{path.name} says its picture is {context.width}×{context.height}.", "No film is that large; the file is damaged."
        )
    timing = _timing(container, stream, index)
    container.seek(0)
    first = next(container.decode(stream), None)
    if first is None:
        raise UnreadableMaster(f"{path.name} has no picture that can be decoded.", "Export it again.")
    sar = Fraction(stream.sample_aspect_ratio or context.sample_aspect_ratio or 1)
    sar = sar if sar > 0 else Fraction(1)
    rotation = -int(first.rotation) % 360
    width, height = display_size(
        width=first.width, height=first.height, sample_aspect_ratio=sar, rotation_deg=rotation
    )
    pixel = av.VideoFormat(context.pix_fmt or first.format.name)
    return VideoFacts(
        codec=OWN_NAMES.get(context.codec.canonical_name, context.codec.canonical_name),
        profile=context.profile,
        level=_level(context),
        sample_entry=tag if (tag := context.codec_tag) and tag.isalnum() and tag.isascii() else None,
        coded_width=first.width,
        coded_height=first.height,
        sample_aspect_ratio=sar,
        rotation_deg=rotation,
        display_width=width,
        display_height=height,
        **timing,
        pictures=stream.frames or (index.count if index else None),
        scan=_scan(context, first),
        pixel_format=pixel.name,
        bit_depth=max(component.bits for component in pixel.components),
        chroma=_chroma(pixel),
        colour=ColourTags(
            primaries=PRIMARIES.get(int(context.color_primaries)),
            transfer=TRANSFERS.get(int(context.color_trc)),
            matrix=MATRICES.get(int(context.colorspace)),
            range=RANGES.get(int(context.color_range)),
        ),
        container_colour=_container_colour(boxes),
        bitrate_bps=_stream_bitrate(container, stream, index, path.stat().st_size),
        start_s=Fraction(first.pts or 0) * cast(Fraction, stream.time_base),
        keyframes=index.keyframes if index and boxes.is_mp4 else (),
        intra=bool(index and boxes.is_mp4 and index.intra),
    )


def _timing(container: Any, stream: Any, index: _Index | None) -> dict[str, object]:
    """The frame-rate fields of VideoFacts, in 1/s, from time stamps and without decoding."""
    runs = index.runs if index else _timed_runs(container, stream)
    runs = [np.unique(run) for run in runs]
    steps = np.concatenate([np.diff(run) for run in runs]) if runs else np.array([])
    stated = stream.average_rate or stream.guessed_rate or stream.base_rate
    if len(steps) < 2:
        return {"frame_rate": Fraction(stated or 25)}
    base = stream.time_base
    typical = float(np.median(steps))
    variable = np.count_nonzero(np.abs(steps - typical) > max(1, typical / 50)) > len(steps) / 100
    mean = Fraction(int(sum(run[-1] - run[0] for run in runs)), len(steps)) * base
    if not variable:
        rounding = 1 / float(steps.sum())
        return {"frame_rate": best_constant_rate(float(1 / mean), rounding=max(1e-7, rounding))}
    return {
        "frame_rate": usual_rate(float(1 / (typical * base))), "variable_rate": True,
        "lowest_rate": float(1 / (int(steps.max()) * base)), "highest_rate": float(1 / (int(steps.min()) * base)),
        "typical_rate": float(1 / (typical * base)),
    }


def _timed_runs(container: Any, stream: Any) -> list[np.ndarray]:
    """Time stamps of neighbouring pictures at several places of a film without an index."""
    length = (container.duration or 0) / 1e6
    places = [0.0] if length < 30 else [length * i / TIMED_PLACES for i in range(TIMED_PLACES)]
    runs = []
    for place in places:
        if place:
            container.seek(round((place + float((stream.start_time or 0) * stream.time_base)) / stream.time_base), stream=stream)
        stamps = []
        for packet in container.demux(stream):
            if packet.pts is not None:
                stamps.append(packet.pts)
            if len(stamps) >= TIMED_PACKETS * (1 if len(places) > 1 else TIMED_PLACES):
                break
        # Packets come in decoding order: the first and the last few may lack a neighbour that is shown beside them.
        inner = sorted(set(stamps))
        runs.append(np.array(inner[8 if place else 0 : max(3, len(inner) - 8)], np.int64))
    return [run for run in runs if len(run) > 1]


def _duration(container: Any, stream: Any, video: VideoFacts | None) -> Fraction:
    """Seconds of picture, or of sound where there is no picture; from the stream, else from the container."""
    timed = stream or container.streams.audio[0]
    if timed.duration and timed.duration > 0:
        return Fraction(timed.duration) * timed.time_base
    least = 1 / video.frame_rate if video else Fraction(1, 100)
    first = (timed.start_time or 0) * timed.time_base
    # A container's own duration counts from 0 to the end of its longest stream, the priming of a sound included.
    near_end = max(0, (container.duration or 0) - NEAR_END_S * 1_000_000)
    for start in dict.fromkeys((near_end, 0)):
        container.seek(start)
        ends = [
            p.pts * timed.time_base + ((p.duration or 0) * timed.time_base or least) for p in container.demux(timed) if p.pts is not None
        ]
        if ends:
            return max(least, max(ends) - first)
    return max(least, Fraction(container.duration or 0, 1_000_000) - first)


def _stream_bitrate(container: Any, stream: Any, index: _Index | None, size: int) -> int | None:
    """Bit/s of the picture: as stated, from the index, or what the file has beside its other streams."""
    if stream.codec_context.bit_rate:
        return stream.codec_context.bit_rate
    if index and stream.duration and index.bytes_seen:
        whole = index.bytes_seen / index.entries_seen * index.count
        return round(whole * 8 / float(stream.duration * stream.time_base))
    if container.duration and len(container.streams.video) == 1:
        others = sum(sound.codec_context.bit_rate or 0 for sound in container.streams.audio if sound.codec_context)
        left = size * 8 / (container.duration / 1e6) - others
        return round(left) if left > 0 else None
    return None


def _container_colour(boxes: BoxFacts) -> ColourTags | None:
    if boxes.colour is None:
        return None
    primaries, transfer, matrix, full = boxes.colour
    return ColourTags(
        primaries=PRIMARIES.get(primaries), transfer=TRANSFERS.get(transfer), matrix=MATRICES.get(matrix),
        range=None if full is None else "pc" if full else "tv",
    )


def _timecode(container: Any) -> str | None:
    """The time code of the first picture, as the container or one of its streams states it."""
    for metadata in (container.metadata, *(stream.metadata for stream in container.streams)):
        if metadata.get("timecode"):
            return metadata["timecode"]
    return None


def _level(context: Any) -> str | None:
    level = context.level
    if context.codec.canonical_name == "av1" and level is not None and 0 <= level < 24:
        return f"{2 + level // 4}.{level % 4}"  # seq_level_idx, AV1 specification Annex A.3
    if level is None or level <= 0:
        return None
    if context.codec.canonical_name == "h264":
        return f"{level // 10}.{level % 10}"
    if context.codec.canonical_name == "hevc":
        return f"{level / 30:.1f}"
    return str(level)


def _chroma(pixel: av.VideoFormat) -> str:
    if len(pixel.components) < 3 or pixel.is_rgb:
        return "RGB" if pixel.is_rgb else "grey"
    subsampling = 16 // pixel.chroma_width(16), 16 // pixel.chroma_height(16)
    return {(2, 2): "4:2:0", (2, 1): "4:2:2", (1, 1): "4:4:4", (4, 1): "4:1:1"}.get(subsampling, "other")


def _scan(context: Any, frame: Any) -> Scan:
    if frame.interlaced_frame:
        return Scan.BOTTOM_FIRST if int(context.field_order) in (3, 5) else Scan.TOP_FIRST
    return Scan.PROGRESSIVE


def _audio(container: Any) -> AudioFacts | None:
    """The first sound stream; None without one, or with one of a codec that nobody knows."""
    stream = next(iter(container.streams.audio), None)
    context = stream.codec_context if stream is not None else None
    if stream is None or context is None or not context.sample_rate or not context.channels:
        return None
    return AudioFacts(
        codec=context.codec.canonical_name,
        sample_rate_hz=context.sample_rate,
        channels=context.channels,
        layout=context.layout.name,
        bitrate_bps=context.bit_rate or None,
        start_s=Fraction(stream.start_time or 0) * stream.time_base,
    )
