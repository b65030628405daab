"""What each encoder is told, in its own option names, from a plan or a rendition. Nothing is left to a default."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from .condition import YARDSTICK_QUALITIES
from .errors import EncoderTrouble
from .facts import ColourTags
from .ladder import Rendition
from .plan import Effort, Plan, RateControl

X264_PRESETS = {Effort.QUICK: "veryfast", Effort.MEDIUM: "medium", Effort.CAREFUL: "slow"}
X264_PARAMS_ALLOWED = frozenset({"pass", "stats", "open-gop", "vbv-init", "nal-hrd", "mbtree"})
"""Keys that may stand inside x264-params: the library drops unknown ones there without a word."""
REC_709 = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
SCENE_CUT = 40
FIRST_PASS = {"refs": "1", "8x8dct": "0", "partitions": "none", "me_method": "dia", "subq": "2", "trellis": "0", "fast-pskip": "1"}
"""A first pass only has to find where the bits will be needed. The library makes it a quick one by itself only when told
of the pass by a flag, not through x264-params, so the same quick settings are given here."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EncoderSettings:
    """One encoder run: library name, frame size (px), rate (1/s), options by the library's names."""

    library: str
    width: int
    height: int
    frame_rate: Fraction
    options: dict[str, str]
    pixel_format: str = "yuv420p"
    colour: ColourTags = REC_709
    params: dict[str, str] = field(default_factory=dict)

    def all_options(self) -> dict[str, str]:
        """Options with x264-params packed in; raises EncoderTrouble for a key that is not allowed."""
        if not self.params:
            return dict(self.options)
        unknown = set(self.params) - X264_PARAMS_ALLOWED
        if unknown:
            raise EncoderTrouble(f"The encoder key {', '.join(sorted(unknown))} is not one we know.")
        packed = ":".join(f"{key}={value}" for key, value in self.params.items())
        return {**self.options, "x264-params": packed}


def _x264(*, preset: str, keyframes: int) -> dict[str, str]:
    return {
        "preset": preset,
        "profile": "high",
        "g": str(keyframes),
        "keyint_min": str(max(1, keyframes // 10)),
        "sc_threshold": str(SCENE_CUT),
        "flags": "+cgop",
    }


def packing_settings(plan: Plan, *, encode_pass: int, stats_path: str | None = None) -> EncoderSettings:
    """Settings of one pass of a plan; pass 0 is the only pass, 1 and 2 share the statistics file."""
    video = plan.video
    framing = video.framing.value
    options = _x264(preset=X264_PRESETS[video.effort.value], keyframes=video.keyframe_interval_frames.value)
    options |= {
        "level": video.level.value,
        "b": str(video.target_bps.value),
        "maxrate": str(video.ceiling_bps.value),
        "bufsize": str(video.buffer_bits.value),
    }
    params = {"open-gop": "0", "nal-hrd": "none"}
    if encode_pass:
        if video.rate_control.value is not RateControl.TWO_PASSES or stats_path is None:
            raise EncoderTrouble("Two passes need a plan of two passes and a place for their statistics.")
        params |= {"pass": str(encode_pass), "stats": stats_path}
        if encode_pass == 1:
            options |= FIRST_PASS
    return EncoderSettings(
        library="libx264", width=framing.width, height=framing.height, frame_rate=video.frame_rate.value,
        options=options, pixel_format=video.pixel_format.value, colour=video.colour.value, params=params,
    )


def rendition_settings(rendition: Rendition) -> EncoderSettings:
    """Settings of one step of a platform's ladder: a quality target under a ceiling, quick effort."""
    if rendition.codec == "h264":
        options = _x264(preset="veryfast", keyframes=rendition.keyframe_interval_frames)
        options |= {
            "crf": str(rendition.quality),
            "maxrate": str(rendition.ceiling_bps),
            "bufsize": str(rendition.buffer_bits),
        }
        library, params = "libx264", {"open-gop": "0", "nal-hrd": "none"}
    elif rendition.codec == "vp9":
        options = {
            "deadline": "realtime", "cpu-used": "8", "row-mt": "1", "tile-columns": "2", "lag-in-frames": "0",
            "crf": str(rendition.quality), "b": str(rendition.ceiling_bps),
            "maxrate": str(rendition.ceiling_bps), "bufsize": str(rendition.buffer_bits),
            "g": str(rendition.keyframe_interval_frames),
        }
        library, params = "libvpx-vp9", {}
    else:
        raise EncoderTrouble(f"No handling encoder for {rendition.codec}.")
    return EncoderSettings(
        library=library, width=rendition.width, height=rendition.height, frame_rate=rendition.frame_rate,
        options=options, params=params,
    )


def yardstick_settings(*, width: int, height: int, frame_rate: Fraction, quality: int) -> EncoderSettings:
    """A reference encode of the condition scale: quick H.264 at constant quality, 250 pictures between keyframes."""
    if quality not in YARDSTICK_QUALITIES:
        raise EncoderTrouble(f"The condition scale has no reference at quality {quality}.")
    options = _x264(preset="veryfast", keyframes=250) | {"crf": str(quality)}
    return EncoderSettings(
        library="libx264", width=width, height=height, frame_rate=frame_rate, options=options,
        params={"open-gop": "0", "nal-hrd": "none"},
    )
