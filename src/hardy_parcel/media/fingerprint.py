"""By what a file is known again: its bytes, its packets, what it says about itself, and a few small pictures."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Callable, Iterable
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

from ..core.parcel.handoff import THUMB_SIZE, THUMBS, Fingerprint
from .inspect import read_file
from .trouble import open_film, reading
from .units import LENGTH_AT, coded_picture, coded_sound, length_bytes
from .verify import sha256

NOT_ITS_OWN = {
    "encoder", "creation_time", "major_brand", "minor_version", "compatible_brands", "handler_name", "vendor_id", "duration", "bps",
    "number_of_frames", "number_of_bytes", "_statistics_writing_app", "_statistics_tags", "_statistics_writing_date_utc",
}
"""What a muxer writes about itself, not about the film."""


def fingerprint(path: Path) -> Fingerprint:
    """The fingerprint of a film or of a file that has only sound. Raises NotFound or UnreadableMaster."""
    facts = read_file(path, loudness=False)
    video, audio = facts.video, facts.audio
    picture_bytes, digests, tags = _packets(path)
    if video:
        tags |= {"colour": " ".join(str(value) for value in video.colour.model_dump().values()), "turned": str(video.rotation_deg)}
    return Fingerprint(
        sha256=sha256(path), size_bytes=facts.size_bytes, container=facts.container, duration_s=float(facts.duration_s),
        width=video.display_width if video else 0, height=video.display_height if video else 0, codec=video.codec if video else "",
        video_bitrate_bps=round(picture_bytes * 8 / float(facts.duration_s)) if video else 0, picture_digest=digests.get("video", ""),
        sound_codec=audio.codec if audio else "", sound_digest=digests.get("audio", ""),
        picture_units=digests.get("video units", ""), sound_units=digests.get("audio units", ""),
        tags=tags, thumbs=_thumbs(path, float(facts.duration_s), float(video.start_s)) if video else "",
    )


def _packets(path: Path) -> tuple[int, dict[str, str], dict[str, str]]:
    """Bytes of picture, digests of the payload of each first stream and of its units, and the tags that are about the film."""
    digests: dict[str, Any] = {}
    size = 0
    with reading(path), open_film(path) as container:
        streams = {stream.index: stream for stream in (*container.streams.video[:1], *container.streams.audio[:1])}
        units = {index: _units(stream) for index, stream in streams.items()}
        for packet in container.demux(list(streams.values())):
            if packet.size:
                kind = packet.stream.type
                digests.setdefault(kind, hashlib.sha256()).update(payload := bytes(packet))
                for unit in units[packet.stream.index](payload):
                    digests.setdefault(f"{kind} units", hashlib.sha256()).update(unit)
                size += packet.size if kind == "video" else 0
        found = dict(container.metadata)
        for stream in streams.values():
            found |= {f"{key} of the {stream.type}": value for key, value in stream.metadata.items()}
    tags = {
        key: str(value) for key, value in found.items()
        if key.split(" of the ")[0].lower() not in NOT_ITS_OWN and str(value) not in ("und", "")
    }
    return size, {kind: digest.hexdigest() for kind, digest in digests.items()}, tags


def _units(stream: Any) -> Callable[[bytes], Iterable[bytes]]:
    """What takes out of a stream's packets what is coded in them; nothing where the codec is wrapped alike everywhere."""
    codec = stream.codec_context.codec.canonical_name
    if codec in LENGTH_AT:
        return partial(coded_picture, codec, length_bytes(codec, bytes(stream.codec_context.extradata or b"")))
    return (lambda packet: (coded_sound(packet),)) if codec == "aac" else lambda packet: ()


def _thumbs(path: Path, duration_s: float, start_s: float) -> str:
    """Grey pictures of `THUMB_SIZE`, evenly over the film, as base64; of one that ends sooner the last stands for those it lacks."""
    made: list[bytes] = []
    with reading(path), open_film(path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        for number in range(THUMBS):
            at = start_s + (number + 0.5) * duration_s / THUMBS
            container.seek(int(Fraction(at) / (stream.time_base or Fraction(1, 1000))), stream=stream)
            shown = None
            for frame in container.decode(stream):
                shown = frame
                if frame.time is not None and frame.time >= at - 1e-3:
                    break
            if shown is not None:
                small = shown.reformat(width=THUMB_SIZE[0], height=THUMB_SIZE[1], format="gray", interpolation="AREA")
                made.append(small.to_ndarray().tobytes())
            elif made:
                made.append(made[-1])
    return base64.b64encode(b"".join(made)).decode() if len(made) == THUMBS else ""


SOUND_ALIKE = 0.9
"""Share of equal blocks from which on two sounds are one: a container that cannot say so leaves the encoder's lead-in at its head."""


def decode_alike(one: Path, other: Path, *, sound: bool = False) -> bool:
    """Whether two films decode to the same pictures, or but for their ends to the same sound, whatever holds them."""
    mine, its = (_decoded(path, sound=sound) for path in (one, other))
    if not sound:
        return mine == its
    blocks = set(mine), set(its)
    return bool(mine and its) and len(blocks[0] & blocks[1]) >= SOUND_ALIKE * max(map(len, blocks))


def _decoded(path: Path, *, sound: bool) -> list[bytes]:
    """Digests of all pictures, or of all blocks of sound."""
    found: list[bytes] = []
    with reading(path), open_film(path) as container:
        streams: Any = container.streams.audio if sound else container.streams.video
        for stream in streams[:1]:
            stream.thread_type = "AUTO"
            found = [hashlib.sha256(frame.to_ndarray().tobytes()).digest() for frame in container.decode(stream)]
    return found
