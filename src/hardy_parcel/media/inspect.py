"""Reads a master's facts: the header without decoding, one picture, and the sound's loudness."""

from __future__ import annotations

import hashlib
import statistics
from fractions import Fraction
from pathlib import Path

import av

from ..core.errors import UnreadableMaster
from ..core.facts import AudioFacts, ColourTags, MasterFacts, Scan, VideoFacts, best_constant_rate, display_size
from .loudness import measure_loudness
from .trouble import reading

# H.273 code points (07/2021, tables 2 to 4); 2 is "unspecified" and means untagged.
PRIMARIES = {1: "bt709", 4: "bt470m", 5: "bt470bg", 6: "smpte170m", 7: "smpte240m", 9: "bt2020", 11: "smpte431", 12: "smpte432"}
TRANSFERS = {1: "bt709", 4: "gamma22", 5: "gamma28", 6: "smpte170m", 7: "smpte240m", 8: "linear", 13: "iec61966-2-1",
             14: "bt2020-10", 15: "bt2020-12", 16: "smpte2084", 18: "arib-std-b67"}
MATRICES = {0: "gbr", 1: "bt709", 4: "fcc", 5: "bt470bg", 6: "smpte170m", 7: "smpte240m", 9: "bt2020nc", 10: "bt2020c"}
RANGES = {1: "tv", 2: "pc"}
CONTAINERS = {"mov,mp4,m4a,3gp,3g2,mj2": "MP4/MOV", "matroska,webm": "MKV/WebM", "avi": "AVI", "mpegts": "MPEG-TS"}
LARGEST_SIDE = 16384
TIMED_PACKETS = 600


def inspect(path: Path, *, loudness: bool = True) -> MasterFacts:
    """The facts of a master. Raises NotFound or UnreadableMaster with a clear sentence."""
    if not path.exists() or path.is_dir():
        with reading(path):
            open(path, "rb").close()
    size = path.stat().st_size
    if size == 0:
        raise UnreadableMaster(f"{path.name} is empty.", "Check that the copy or the export finished.")
    with reading(path), av.open(str(path), metadata_errors="replace") as container:
        stream = picture_stream(container, path)
        _check_complete(stream, size, path)
        video = _video(container, stream, path)
        duration = _duration(container, stream, video)
        audio = _audio(container) if container.streams.audio else None
        layout = CONTAINERS.get(container.format.name, container.format.long_name)
    if loudness and audio:
        audio = audio.model_copy(update=measure_loudness(path).as_facts())
    return MasterFacts(
        name=path.name,
        content_id=content_id(path),
        container=layout,
        size_bytes=size,
        duration_s=duration,
        bitrate_bps=round(size * 8 / float(duration)),
        video=video,
        audio=audio,
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
    for stream in container.streams.video:
        attached = int(stream.disposition) & int(av.stream.Disposition.attached_pic)
        if not attached and stream.codec_context.width:
            return stream
    raise UnreadableMaster(f"{path.name} has no picture.", "Choose a file with a film in it.", code="no_picture")


def _check_complete(stream: av.VideoStream, size: int, path: Path) -> None:
    entries = stream.index_entries
    if len(entries):
        last = max((entry.pos + entry.size for entry in entries), default=0)
        if last > size + 16:
            raise UnreadableMaster(
                f"{path.name} is cut short: its index names {last / 1e6:.1f} MB and the file has {size / 1e6:.1f} MB.",
                "Copy or export it again.",
                code="truncated",
            )


def _video(container: av.container.InputContainer, stream: av.VideoStream, path: Path) -> VideoFacts:
    context = stream.codec_context
    if max(context.width, context.height) > LARGEST_SIDE:
        raise UnreadableMaster(
            f"{path.name} says its picture is {context.width}×{context.height}.", "No film is that large; the file is damaged."
        )
    rate, variable, lowest, highest = _frame_rate(container, stream)
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
        codec=context.codec.canonical_name,
        profile=context.profile,
        level=_level(context),
        coded_width=first.width,
        coded_height=first.height,
        sample_aspect_ratio=sar,
        rotation_deg=rotation,
        display_width=width,
        display_height=height,
        frame_rate=rate,
        variable_rate=variable,
        lowest_rate=lowest,
        highest_rate=highest,
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
        bitrate_bps=_stream_bitrate(stream),
        start_s=Fraction(first.pts or 0) * stream.time_base,
    )


def _frame_rate(container, stream) -> tuple[Fraction, bool, float | None, float | None]:
    """Exact rate in 1/s, whether it varies, and lowest and highest; from time stamps, without decoding."""
    entries = stream.index_entries
    if len(entries) > 2:
        stamps = [entry.timestamp for entry in entries]
    else:
        stamps = []
        for packet in container.demux(stream):
            if packet.pts is not None:
                stamps.append(packet.pts)
            if len(stamps) >= TIMED_PACKETS:
                break
    stamps = sorted(set(stamps))
    stated = stream.average_rate or stream.guessed_rate or stream.base_rate
    if len(stamps) < 3:
        return Fraction(stated or 25), False, None, None
    steps = [(b - a) * stream.time_base for a, b in zip(stamps, stamps[1:], strict=False)]
    typical = statistics.median(steps)
    mean = (stamps[-1] - stamps[0]) * stream.time_base / (len(stamps) - 1)
    slack = max(stream.time_base, typical / 50)
    variable = sum(abs(step - typical) > slack for step in steps) > len(steps) / 100
    if not variable:
        rounding = 1 / (stamps[-1] - stamps[0])
        return best_constant_rate(float(1 / mean), rounding=max(1e-7, rounding)), False, None, None
    return best_constant_rate(float(1 / mean), tolerance=0.02), True, float(1 / max(steps)), float(1 / min(steps))


def _duration(container, stream, video: VideoFacts) -> Fraction:
    """Seconds of picture, from the stream, else from the container."""
    if stream.duration:
        return Fraction(stream.duration) * stream.time_base
    if container.duration:
        return Fraction(container.duration, 1_000_000)
    count = sum(1 for packet in container.demux(stream) if packet.size)
    return max(1, count) / video.frame_rate


def _stream_bitrate(stream) -> int | None:
    if stream.codec_context.bit_rate:
        return stream.codec_context.bit_rate
    entries = stream.index_entries
    if len(entries) > 2 and stream.duration:
        return round(sum(entry.size for entry in entries) * 8 / float(stream.duration * stream.time_base))
    return None


def _level(context) -> str | None:
    level = context.level
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


def _scan(context, frame) -> Scan:
    if frame.interlaced_frame:
        return Scan.BOTTOM_FIRST if int(context.field_order) in (3, 5) else Scan.TOP_FIRST
    return Scan.PROGRESSIVE


def _audio(container) -> AudioFacts:
    stream = container.streams.audio[0]
    context = stream.codec_context
    return AudioFacts(
        codec=context.codec.canonical_name,
        sample_rate_hz=context.sample_rate,
        channels=context.channels,
        layout=context.layout.name,
        bitrate_bps=context.bit_rate or None,
        start_s=Fraction(stream.start_time or 0) * stream.time_base,
    )
