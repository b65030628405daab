"""What a platform makes of a file that it is sent, by its sheet and the file alone: it knows nothing of how the file was planned.

It refuses what its sheet does not take, gives a wrong shape bars or cuts it, and says what it makes of the rest.
"""

from __future__ import annotations

import math
from fractions import Fraction
from pathlib import Path

from ..master.facts import AudioFacts, FileFacts, MasterFacts, VideoFacts
from ..plan.as_it_is import container_of, sound_codec_of
from ..sheets.ladder import Rendition, renditions_for
from ..sheets.sheet import Destination, Placement
from ..trade.codecs import name_of
from ..trade.containers import CONTAINER_NAMES
from ..trade.names import Container
from ..values import Model, Rect, even, rate_text, seconds_text, size_text

SOUND_FILES: dict[str, Container] = {"mp4": "m4a", "mp3": "mp3", "ogg": "ogg", "flac": "flac", "wav": "wav"}
"""By how a container's name begins what it is called where it holds sound alone."""
AS_IT_IS = "as it is"
"""What the very file is called where nothing is made of it."""
LEVEL_NEAR_LU = 0.1
"""Sound that is so near to its level is not turned."""


class ReceivedSound(Model):
    """How the sound is made anew: AAC at so many bit/s, turned by so many dB."""

    bitrate_bps: int
    gain_db: float


class Received(Model):
    """What is made of a file. `crop` is the part of its upright picture that is kept, `picture` where that lies in the frame of
    `width` × `height`, all in px of the file's own size; None for sound alone. Renditions come in their order, smallest first; there are
    none where the file is served as it is. `sound` is None where its packets are kept, or there is none."""

    width: int = 0
    height: int = 0
    crop: Rect | None = None
    picture: Rect | None = None
    renditions: tuple[Rendition, ...] = ()
    sound: ReceivedSound | None = None

    @property
    def as_it_is(self) -> bool:
        """Whether viewers get the very file."""
        return not self.renditions and self.sound is None


class Rendered(Model):
    """A file that viewers get: its name among the renditions, where it is, its size in px, 0 for sound, and its bytes."""

    name: str
    path: Path
    width: int = 0
    height: int = 0
    size_bytes: int


def refusals(facts: FileFacts, destination: Destination, *, used_bytes: int = 0) -> tuple[str, ...]:
    """Why a file is refused, each reason in a sentence, where `used_bytes` of the quota are used; empty where it is taken."""
    place, name = destination.placement, destination.sheet_name
    found = [*_streams(facts, destination), *_picture(facts, destination)]
    if facts.size_bytes > place.max_bytes:
        found.append(f"{size_text(facts.size_bytes)} is more than the {size_text(place.max_bytes)} that {name} takes.")
    if facts.duration_s > place.max_duration_s:
        found.append(f"{seconds_text(facts.duration_s)} is longer than the {seconds_text(place.max_duration_s)} that {name} takes.")
    if place.quota_bytes and used_bytes + facts.size_bytes > place.quota_bytes:
        left, days = size_text(max(0, place.quota_bytes - used_bytes)), place.quota_days or 7
        found.append(f"{left} are left of the {size_text(place.quota_bytes)} that {name} takes in {days} days.")
    return tuple(found)


def _streams(facts: FileFacts, destination: Destination) -> list[str]:
    place, name, video, audio = destination.placement, destination.sheet_name, facts.video, facts.audio
    if place.picture and video is None:
        return [f"{name} takes films, and this file has no picture."]
    if not place.picture and (video or audio is None):
        return [f"{name} takes sound alone, and this file has {'a picture' if video else 'none'}."]
    found = []
    if video and video.codec not in place.codecs:
        found.append(f"{name} does not take {name_of(video.codec)}.")
    if video and video.bit_depth > 8 and video.codec not in place.ten_bit:
        found.append(f"{name} takes no {video.bit_depth} bit of {name_of(video.codec)}.")
    if audio and sound_codec_of(audio.codec) not in place.audio.codecs:
        found.append(f"{name} does not take {name_of(audio.codec)} sound.")
    container = _container(facts)
    if container not in place.containers:
        taken = ", ".join(CONTAINER_NAMES[one] for one in place.containers)
        found.append(f"{name} takes {taken}, not {CONTAINER_NAMES[container] if container else facts.container}.")
    return found


def _container(facts: FileFacts) -> Container | None:
    if isinstance(facts, MasterFacts):
        return container_of(facts)
    return next((name for begins, name in SOUND_FILES.items() if facts.container.lower().startswith(begins)), None)


def _picture(facts: FileFacts, destination: Destination) -> list[str]:
    place, name, video = destination.placement, destination.sheet_name, facts.video
    if video is None or not place.picture:
        return []
    found = []
    kept, *_ = _shaped(_whole(video), place)  # what is cut off need not fit
    if max(kept.width, kept.height) > place.max_long_side_px or min(kept.width, kept.height) > place.max_short_side_px:
        most = f"{place.max_long_side_px} px along the long side and {place.max_short_side_px} along the short"
        found.append(f"{video.display_width}×{video.display_height} is more than the {most} that {name} takes.")
    if video.frame_rate > place.max_frame_rate and place.handling.frame_rate_cap is None:  # else pictures are left out
        found.append(f"{rate_text(video.frame_rate)} frames/s is more than the {rate_text(place.max_frame_rate)} that {name} takes.")
    if place.handling.wrong_shape == "refuse" and not place.accepts_shape(Fraction(video.display_width, video.display_height)):
        found.append(f"{video.display_width}×{video.display_height} is no shape that {name} takes.")
    return found


def receive(facts: FileFacts, destination: Destination) -> Received:
    """What is made of a file that was not refused."""
    place = destination.placement
    sound = _sound(facts.audio, place) if facts.audio and (place.re_encodes or not place.picture) else None  # else bit for bit
    if facts.video is None:
        return Received(sound=sound)
    crop, width, height = _shaped(_whole(facts.video), destination.placement)
    picture = Rect(x=_centred(crop.width, width), y=_centred(crop.height, height), width=crop.width, height=crop.height)
    made = renditions_for(destination, width=width, height=height, frame_rate=facts.video.frame_rate)
    order = sorted(made, key=lambda one: (one.short_side_px, one.ceiling_bps))
    return Received(width=width, height=height, crop=crop, picture=picture, renditions=tuple(order), sound=sound)


def _whole(video: VideoFacts) -> Rect:
    return Rect(x=0, y=0, width=even(video.display_width), height=even(video.display_height))


def _shaped(whole: Rect, place: Placement) -> tuple[Rect, int, int]:
    """What is kept of a picture, and width and height of the frame that it gets."""
    if place.accepts_shape(whole.shape) or not place.re_encodes:
        return whole, whole.width, whole.height
    shape = min(max(whole.shape, place.narrowest), place.widest)
    wide = whole.shape > shape
    if place.handling.wrong_shape == "crop":
        width, height = (even(whole.height * shape), whole.height) if wide else (whole.width, even(whole.width / shape))
        return Rect(x=_centred(width, whole.width), y=_centred(height, whole.height), width=width, height=height), width, height
    return whole, *((whole.width, even(whole.width / shape)) if wide else (even(whole.height * shape), whole.height))


def _centred(inner: int, outer: int) -> int:
    """Where something begins in the middle of something larger; even, as chroma needs it."""
    return (outer - inner) // 4 * 2


def _sound(audio: AudioFacts, place: Placement) -> ReceivedSound | None:
    rule, handling = place.audio, place.handling
    gain = 0.0
    if handling.loudness != "none" and rule.target_lufs is not None and audio.integrated_lufs is not None:
        gain = rule.target_lufs - audio.integrated_lufs
        if handling.loudness == "turns down":
            gain = min(0.0, gain)
        if gain > 0 and rule.true_peak_limit_dbtp is not None and audio.true_peak_dbtp is not None:
            gain = min(gain, max(0.0, rule.true_peak_limit_dbtp - audio.true_peak_dbtp))  # it turns up only as far as peaks let it
        gain = gain if math.fabs(gain) > LEVEL_NEAR_LU else 0.0
    if handling.sound_bps is None and gain == 0:
        return None
    usual = rule.mono_bps if audio.channels == 1 else rule.stereo_bps
    return ReceivedSound(bitrate_bps=handling.sound_bps or usual, gain_db=round(gain, 2))
