"""What each encoder is told, in its own option names, from a plan or a rendition. Nothing is left to a default."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from ..errors import EncoderTrouble
from ..master.facts import ColourTags
from ..sheets.ladder import Rendition
from ..trade.codecs import CODECS
from ..trade.names import Codec
from ..trade.rate_control import Effort, RateControl
from .plan import Plan, VideoPlan

PRESETS: dict[Codec, dict[Effort, str]] = {
    "h264": {Effort.QUICK: "veryfast", Effort.MEDIUM: "medium", Effort.CAREFUL: "slow"},
    "hevc": {Effort.QUICK: "superfast", Effort.MEDIUM: "fast", Effort.CAREFUL: "medium"},
    "vp9": {Effort.QUICK: "6", Effort.MEDIUM: "4", Effort.CAREFUL: "2"},
    "av1": {Effort.QUICK: "9", Effort.MEDIUM: "8", Effort.CAREFUL: "6"},
}
"""Named efforts by each encoder's own scale."""
SCALES: dict[Codec, str] = {
    "h264": "preset {}", "hevc": "preset {}", "vp9": "speed {} of 0 to 8", "av1": "preset {} of 0 to 13",
}
"""How a place on that scale is called."""
SEARCH_PRESETS: dict[Codec, str] = {"vp9": "5", "av1": "12"}
"""What the first pass of a search for a quality is encoded at."""
LIBRARIES: dict[Codec, str] = {"h264": "libx264", "hevc": "libx265", "vp9": "libvpx-vp9", "av1": "libsvtav1", "vc3": "dnxhd"}
PACKED: dict[str, tuple[str, frozenset[str]]] = {
    "libx264": ("x264-params", frozenset({"pass", "stats", "open-gop", "vbv-init", "nal-hrd", "mbtree"})),
    "libx265": ("x265-params", frozenset({"pass", "stats", "open-gop", "level-idc", "high-tier", "log-level", "info", "scenecut"})),
    "libsvtav1": ("svtav1-params", frozenset({"rc", "level", "scd", "tune", "crf"})),
}
"""Keys that may stand inside packed parameter strings: the libraries drop unknown ones there without a word."""
REC_709 = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
SCENE_CUT = 40
FIRST_PASS = {"refs": "1", "8x8dct": "0", "partitions": "none", "me_method": "dia", "subq": "2", "trellis": "0", "fast-pskip": "1"}
"""A first pass of H.264 only has to find where the bits will be needed. The library makes it a quick one by itself only
when told of the pass by a flag, not through x264-params, so the same quick settings are given here."""


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
        """Options with the library's parameter string packed in; raises EncoderTrouble for a key that is not allowed."""
        if not self.params:
            return dict(self.options)
        name, allowed = PACKED.get(self.library, ("", frozenset()))
        unknown = set(self.params) - allowed
        if unknown:
            raise EncoderTrouble(f"The encoder key {', '.join(sorted(unknown))} is not one we know.")
        packed = ":".join(f"{key}={value}" for key, value in self.params.items())
        return {**self.options, name: packed}


def _x264(*, preset: str, keyframes: int, deep: bool = False) -> dict[str, str]:
    return {
        "preset": preset,
        "profile": "high10" if deep else "high",
        "g": str(keyframes),
        "keyint_min": str(max(1, keyframes // 10)),
        "sc_threshold": str(SCENE_CUT),
        "flags": "+cgop",
    }


SEARCHED = "searched"
"""In place of a quality that the first pass has yet to find: measurements are stored by these settings, so it never changes."""


def effort_words(codec: Codec, effort: Effort) -> str:
    """What an effort really is for a codec's encoder, by that encoder's own scale; its own name for a codec without one."""
    return SCALES[codec].format(PRESETS[codec][effort]) if codec in SCALES else str(effort)


def packing_settings(plan: Plan, *, encode_pass: int = 0, stats_path: str | None = None, quality: float | None = None) -> EncoderSettings:
    """Settings of one pass of a plan; pass 0 is the only pass, 1 and 2 share the statistics file.

    Where a quality is searched for, there is no such file and both passes are told the `quality` that is tried or was found; without
    one these are settings to be read, not to be used. Raises EncoderTrouble where nothing is encoded or the passes do not fit the plan.
    """
    video = plan.picture
    searches, two = searches_quality(video), video.rate_control.value is RateControl.TWO_PASSES
    if plan.copied or (encode_pass and not (two and (searches or stats_path is not None))):
        raise EncoderTrouble("These encoder settings do not fit the plan.")
    passes = {"pass": str(encode_pass), "stats": str(stats_path)} if encode_pass and not searches else {}
    codec, framing = video.codec.value, video.framing.value
    if codec == "vc3":
        options, params = {"profile": "dnxhr_hqx" if video.deep else "dnxhr_hq"}, dict[str, str]()
    else:
        effort, keyframes = video.effort.value or Effort.MEDIUM, video.keyframe_interval_frames.value or 1
        make = {"h264": _h264, "hevc": _hevc, "vp9": _vp9, "av1": _av1}[codec]
        preset = SEARCH_PRESETS[codec] if searches and encode_pass == 1 else PRESETS[codec][effort]
        options, params = make(video, preset, keyframes)
        options |= _bits(video) if quality is None else {}
        if quality is not None:  # AV1's own word takes parts of a value; VP9 keeps a quality where it has no target
            told = {"crf": f"{quality:g}"}
            options |= told | {"b": "0"} if codec == "vp9" else {}
            params |= told if codec != "vp9" else {}
    if encode_pass == 1 and codec == "h264":
        options |= FIRST_PASS
    return EncoderSettings(
        library=LIBRARIES[codec], width=framing.width, height=framing.height, frame_rate=video.frame_rate.value,
        options=options, pixel_format=video.pixel_format.value, colour=video.colour.value, params=params | passes,
    )


def searches_quality(video: VideoPlan) -> bool:
    """Whether the first of two passes looks for the quality that has the size."""
    return video.rate_control.value is RateControl.TWO_PASSES and CODECS[video.codec.value].searched is not None


def _bits(video: VideoPlan) -> dict[str, str]:
    """Target or quality, ceiling and buffer, by the names that all the libraries share."""
    control, codec = video.rate_control.value, video.codec.value
    if control is RateControl.QUALITY:
        told = {"crf": str(video.quality.value)}
        if codec == "vp9":  # what it aims to stay below
            told["b"] = str(video.target_bps.value)
    else:
        told = {"b": str(video.target_bps.value)} | ({"crf": SEARCHED} if searches_quality(video) else {})
    if control is RateControl.CONSTANT:
        told["minrate"] = str(video.target_bps.value)
    if video.ceiling_bps.value is not None:
        told |= {"maxrate": str(video.ceiling_bps.value), "bufsize": str(video.buffer_bits.value)}
    return told


EncoderWords = tuple[dict[str, str], dict[str, str]]
"""Options, and keys for the packed parameter string."""


def _h264(video: VideoPlan, preset: str, keyframes: int) -> EncoderWords:
    constant = video.rate_control.value is RateControl.CONSTANT
    options = _x264(preset=preset, keyframes=keyframes, deep=video.deep) | {"level": str(video.level.value)}
    return options, {"open-gop": "0", "nal-hrd": "cbr" if constant else "none"}


def _hevc(video: VideoPlan, preset: str, keyframes: int) -> EncoderWords:
    high = "1" if video.tier == "High" else "0"
    options = {
        "preset": preset, "profile": "main10" if video.deep else "main", "g": str(keyframes),
        "keyint_min": str(max(1, keyframes // 10)), "flags": "+cgop",
    }
    return options, {
        "log-level": "error", "info": "0", "level-idc": str(video.level.value), "high-tier": high, "open-gop": "0",
        "scenecut": str(SCENE_CUT),
    }


def _vp9(video: VideoPlan, preset: str, keyframes: int) -> EncoderWords:
    """The level is not told: the stream has no place for it, and an encoder that is held to one breaks off where a hard
    moment passes it instead of spending less."""
    options = {
        "deadline": "good", "cpu-used": preset, "row-mt": "1", "tile-columns": "2", "lag-in-frames": "25", "auto-alt-ref": "1",
        "profile": "0", "g": str(keyframes), "keyint_min": "0",
    }
    return options, {}


def _av1(video: VideoPlan, preset: str, keyframes: int) -> EncoderWords:
    level = str(video.level.value).replace(".", "")
    rate = {"rc": "1"} if video.rate_control.value is RateControl.ONE_PASS else {}
    return {"preset": preset, "g": str(keyframes)}, {**rate, "level": level, "scd": "0", "tune": "1"}


def encoder_words(plan: Plan) -> dict[str, str]:
    """Everything the picture's encoder is told, by the library's own names; empty where nothing is encoded."""
    if plan.video is None or plan.copied or plan.held:
        return {}
    settings = packing_settings(plan)
    if plan.video.rate_control.value is RateControl.TWO_PASSES:
        settings = packing_settings(plan, encode_pass=2, stats_path="passes.log")
    size = {"encoder": settings.library, "size": f"{settings.width}x{settings.height}", "pix_fmt": settings.pixel_format}
    words = {**size, **settings.options, **settings.params}
    return {key: "found in the first pass" if value == SEARCHED else value for key, value in words.items()}


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
    elif rendition.codec == "av1":
        options = {
            "preset": "10", "crf": str(rendition.quality), "maxrate": str(rendition.ceiling_bps), "bufsize": str(rendition.buffer_bits),
            "g": str(rendition.keyframe_interval_frames),
        }
        library, params = "libsvtav1", {"scd": "0", "tune": "1"}
    else:
        raise EncoderTrouble(f"No handling encoder for {rendition.codec}.")
    return EncoderSettings(
        library=library, width=rendition.width, height=rendition.height, frame_rate=rendition.frame_rate,
        options=options, params=params,
    )
