"""The names of codecs and containers, as the facts have them and as a person reads them."""

from __future__ import annotations

from typing import Literal

Codec = Literal["h264", "hevc", "vp9", "av1", "vc3"]
"""Picture codecs by the names of the facts; vc3 is the intra-frame mezzanine of SMPTE ST 2019-1."""
SoundCodec = Literal["aac", "opus", "mp3", "flac", "pcm"]
Container = Literal["mp4", "mov", "mkv", "webm", "m4a", "mp3", "ogg", "flac", "wav"]
CODEC_NAMES: dict[str, str] = {
    "h264": "H.264", "hevc": "HEVC", "vp9": "VP9", "av1": "AV1", "vc3": "VC-3",
    "vp8": "VP8", "mpeg1video": "MPEG-1", "mpeg2video": "MPEG-2", "mpeg4": "MPEG-4 Visual",
}
