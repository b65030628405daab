"""From facts, destination and the creator's choices to a complete plan (rules §3)."""

from __future__ import annotations

import math
from fractions import Fraction

from . import plan_stamps
from .cadence import choose_rate
from .errors import BadChoice
from .facts import AudioFacts, ColourTags, Excerpt, MasterFacts, Scan, VideoFacts
from .framing import Framing, FramingMode, choose_framing
from .guidance import GuidanceUse, look_up
from .levels import lowest_level
from .plan import AudioPlan, Because, Choices, Chosen, Effort, FieldOrder, Plan, RateControl, Source, VideoPlan
from .sheets import AudioRule, Destination
from .values import level_text, mbps_text, rate_text

CEILING_FACTOR = 1.5
"""Ceiling over target: room for a hard second without leaving the class of line a platform reads at."""
BUFFER_S = 1.0


def whole_excerpt(facts: MasterFacts) -> Excerpt:
    """The excerpt that takes the whole master."""
    return Excerpt(in_s=Fraction(0), out_s=facts.duration_s)


def check_excerpt(excerpt: Excerpt, facts: MasterFacts) -> Excerpt:
    """The excerpt, refused when it does not lie in the master or holds no picture."""
    if not 0 <= excerpt.in_s < facts.duration_s or excerpt.out_s > facts.duration_s + Fraction(1, 100):
        raise BadChoice(
            f"The excerpt must lie within the master's {float(facts.duration_s):.2f} s.", "Move the in or the out point."
        )
    if excerpt.duration_s * facts.video.frame_rate < Fraction(3, 4):
        raise BadChoice("The out point must come after the in point.", "Leave at least one picture between them.")
    return Excerpt(in_s=excerpt.in_s, out_s=min(excerpt.out_s, facts.duration_s))


def make_plan(
    facts: MasterFacts, destination: Destination, choices: Choices | None = None, excerpt: Excerpt | None = None
) -> Plan:
    """The plan of one parcel. Same arguments, same plan; raises BadChoice for an excerpt outside the master."""
    choices = choices or Choices()
    excerpt = check_excerpt(excerpt or whole_excerpt(facts), facts)
    place = destination.placement
    video = facts.video
    mending = facts.mending
    framing = choose_framing(
        place, display_width=video.display_width, display_height=video.display_height, mode=choices.framing,
        active=mending.remove_bars,
    )
    master_rate = mending.constant_rate if video.variable_rate and mending.constant_rate else video.frame_rate
    cadence = choose_rate(master_rate=master_rate, variable=video.variable_rate, cap=place.max_frame_rate)
    rate = cadence.frame_rate
    frames = max(1, math.floor(excerpt.duration_s * rate + Fraction(1, 4)))
    guidance = look_up(place, width=framing.width, height=framing.height, frame_rate=rate)
    target = _target(choices, guidance, destination)
    ceiling = round(target.value * CEILING_FACTOR)
    buffer_bits = round(ceiling * BUFFER_S)
    level = lowest_level(
        width=framing.width, height=framing.height, frame_rate=rate, ceiling_bps=ceiling, buffer_bits=buffer_bits
    )
    keyframes = max(1, round(place.keyframe_interval_s * rate))
    colour, matrix, colour_range = _colour(video)
    video_plan = VideoPlan(
        codec=_chosen("h264", "codec_accepted", f"taken by {destination.sheet_name} and made everywhere", Source.SHEET),
        profile=_chosen("high", "profile_high", "plays wherever H.264 of this size plays", Source.STANDARD),
        level=_chosen(
            level.name, "lowest_level", f"lowest that carries {rate_text(rate)} frames/s at this size and rate",
            Source.STANDARD,
        ),
        framing=Chosen(value=framing, because=_framing_because(framing, facts, destination)),
        deinterlace=_deinterlace(facts),
        pixel_format=_chosen("yuv420p", "eight_bit_420", _pixel_sentence(video), Source.STANDARD),
        frame_rate=Chosen(
            value=rate,
            because=Because(
                code=cadence.code, sentence=cadence.sentence,
                source=Source.SHEET if cadence.keep_every > 1 else Source.MASTER,
            ),
        ),
        keep_every=cadence.keep_every,
        frames=frames,
        rate_control=_rate_control(choices),
        target_bps=target,
        ceiling_bps=_chosen(ceiling, "ceiling", f"{CEILING_FACTOR:g} × target for hard moments", Source.PROGRAM),
        buffer_bits=_chosen(buffer_bits, "buffer", f"{BUFFER_S:g} s at the ceiling", Source.PROGRAM),
        keyframe_interval_frames=_chosen(
            keyframes, "keyframes", f"{place.keyframe_interval_s:g} s at this rate, closed", Source.SHEET
        ),
        effort=_effort(choices),
        colour=colour,
        source_matrix=matrix,
        source_range=colour_range,
        scaler=_chosen("bicubic", "scaler", "sharp without ringing at these ratios", Source.PROGRAM),
    )
    audio, no_audio = _audio(facts, place.audio, destination)
    draft = Plan(
        destination_id=destination.id,
        destination_name=f"{destination.sheet_name} · {place.name}",
        sheet_version=destination.sheet_version,
        master_content_id=facts.content_id,
        excerpt=excerpt,
        container=_chosen("mp4", "container_accepted", f"taken by {destination.sheet_name}", Source.SHEET),
        fast_start=_chosen(
            True, "fast_start", "the index stands first, so playing can begin early", Source.PROGRAM
        ),
        video=video_plan,
        audio=audio,
        no_audio_because=no_audio,
        guidance=guidance,
        stamps=(),
    )
    return draft.model_copy(update={"stamps": plan_stamps.stamps(draft, facts, destination)})


def _chosen(value, code: str, sentence: str, source: Source) -> Chosen:
    return Chosen(value=value, because=Because(code=code, sentence=sentence, source=source))


def _target(choices: Choices, guidance: GuidanceUse, destination: Destination) -> Chosen[int]:
    rows = " and ".join(str(side) for side in guidance.rows_short_side_px)
    if choices.video_bitrate_bps is None:
        return _chosen(
            guidance.high_bps, "guidance_top",
            f"top of {destination.sheet_name}'s {rows} row, {guidance.frame_rate_class} rates", Source.SHEET,
        )
    multiple = choices.video_bitrate_bps / math.sqrt(guidance.low_bps * guidance.high_bps)
    return _chosen(
        choices.video_bitrate_bps, "creator_rate",
        f"your choice, {multiple:.1f} × guidance ({mbps_text(guidance.low_bps)} to {mbps_text(guidance.high_bps)})",
        Source.CREATOR,
    )


def _rate_control(choices: Choices) -> Chosen[RateControl]:
    if choices.rate_control is not None:
        return _chosen(choices.rate_control, "creator_control", "your choice", Source.CREATOR)
    return _chosen(
        RateControl.TWO_PASSES, "two_passes", "the first pass finds the hard moments, so the size comes out as planned",
        Source.MEASURED,
    )


def _effort(choices: Choices) -> Chosen[Effort]:
    if choices.effort is not None:
        return _chosen(choices.effort, "creator_effort", "your choice", Source.CREATOR)
    return _chosen(Effort.MEDIUM, "effort_medium", "the usual balance of time and condition", Source.PROGRAM)


def _deinterlace(facts: MasterFacts) -> Chosen[FieldOrder]:
    if facts.mending.deinterlace is Scan.TOP_FIRST:
        return _chosen(FieldOrder.TOP_FIRST, "deinterlaced", "your choice; measured top field first", Source.CREATOR)
    if facts.mending.deinterlace is Scan.BOTTOM_FIRST:
        return _chosen(FieldOrder.BOTTOM_FIRST, "deinterlaced", "your choice; measured bottom field first", Source.CREATOR)
    return _chosen(FieldOrder.NONE, "not_deinterlaced", "pictures are packed line for line", Source.MASTER)


def _framing_because(framing: Framing, facts: MasterFacts, destination: Destination) -> Because:
    because = _shape_because(framing, facts.video, destination)
    if facts.mending.remove_bars is None:
        return because
    return because.model_copy(update={"sentence": f"{because.sentence}; baked-in bars removed"})


def _shape_because(framing: Framing, video: VideoFacts, destination: Destination) -> Because:
    name = destination.sheet_name
    master = f"{video.display_width}×{video.display_height}"
    scale = framing.enlargement()
    if framing.mode is FramingMode.FILL:
        kept = framing.kept_area(display_width=video.display_width, display_height=video.display_height)
        size = f", enlarged {scale:.2f} ×" if scale > 1.001 else f", scaled to {scale:.0%}" if scale < 0.999 else ""
        sentence = f"{name} shows {_shape(destination)}; the centre fills it, {kept:.0%} of the picture is kept{size}"
        return Because(code="filled", sentence=sentence, source=Source.CREATOR)
    if framing.mode is FramingMode.FIT:
        sentence = f"{name} shows {_shape(destination)}; the whole picture fits inside with bars"
        return Because(code="fitted", sentence=sentence, source=Source.SHEET)
    if scale < 0.999:
        return Because(code="size_capped", sentence=f"the largest {name} takes; master is {master}", source=Source.SHEET)
    if (framing.crop.width, framing.crop.height) != (video.display_width, video.display_height):
        if framing.crop.width < video.display_width - 1 or framing.crop.height < video.display_height - 1:
            return Because(code="size_as_active", sentence=f"the active picture of the master ({master})", source=Source.MEASURED)
        return Because(
            code="size_made_even", sentence=f"as the master ({master}), less an odd line", source=Source.STANDARD
        )
    squared = video.sample_aspect_ratio != 1
    turned = video.rotation_deg % 360 != 0
    extra = " with square pixels" if squared else ""
    extra += ", turned upright" if turned else ""
    return Because(code="size_as_master", sentence=f"as the master{extra}", source=Source.MASTER)


def _shape(destination: Destination) -> str:
    shape = destination.placement.usual_shape
    return f"{shape.numerator}:{shape.denominator}"


def _pixel_sentence(video: VideoFacts) -> str:
    if video.bit_depth > 8 or video.chroma != "4:2:0":
        return f"what viewers' players take; master is {video.bit_depth} bit {video.chroma}"
    return "as the master, and what viewers' players take"


def _colour(video: VideoFacts) -> tuple[Chosen[ColourTags], str, str]:
    """Tags to write, and the master's matrix and range as the scaler must read them."""
    out = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
    sd = min(video.display_width, video.display_height) < 720
    guess = "smpte170m" if sd else "bt709"
    matrix = video.colour.matrix or guess
    colour_range = video.colour.range or "tv"
    if video.colour.untagged:
        name = "BT.601" if sd else "BT.709"
        said = f"master is untagged; {'SD' if sd else 'HD'} taken as {name}, a guess"
        code = "colour_guessed"
    elif matrix in ("smpte170m", "bt470bg"):
        said, code = "matrix converted from the master's BT.601", "colour_converted"
    else:
        said, code = "as the master's tags", "colour_as_master"
    if colour_range == "pc":
        said += "; full range brought to limited"
    source = Source.MASTER if code == "colour_as_master" else Source.STANDARD
    return _chosen(out, code, said, source), matrix, colour_range


def _audio(
    facts: MasterFacts, rule: AudioRule, destination: Destination
) -> tuple[AudioPlan | None, Because | None]:
    sound = facts.audio
    if sound is None:
        return None, Because(code="no_sound", sentence="the master has none", source=Source.MASTER)
    name = destination.sheet_name
    channels = min(2, sound.channels)
    mixed = sound.channels > 2
    keep_rate = sound.sample_rate_hz in rule.sample_rates_hz
    sample_rate = sound.sample_rate_hz if keep_rate else 48000 if 48000 in rule.sample_rates_hz else rule.sample_rates_hz[0]
    gain, code, sentence = _gain(sound, rule, name, turn_down=facts.mending.turn_down)
    return (
        AudioPlan(
            codec=_chosen("aac", "sound_codec", f"what {name} asks for", Source.SHEET),
            bitrate_bps=_chosen(
                rule.stereo_bps if channels == 2 else rule.mono_bps, "sound_rate",
                f"{name}'s {'stereo' if channels == 2 else 'mono'} rate", Source.SHEET,
            ),
            sample_rate_hz=_chosen(
                sample_rate, "sample_rate", "as the master" if keep_rate else f"what {name} takes",
                Source.MASTER if keep_rate else Source.SHEET,
            ),
            channels=_chosen(
                channels, "channels", f"{sound.channels} channels mixed down" if mixed else "as the master",
                Source.STANDARD if mixed else Source.MASTER,
            ),
            gain_db=_chosen(gain, code, sentence, Source.MEASURED if sound.integrated_lufs is not None else Source.MASTER),
            expected_lufs=None if sound.integrated_lufs is None else round(sound.integrated_lufs + gain, 1),
            expected_peak_dbtp=None if sound.true_peak_dbtp is None else round(sound.true_peak_dbtp + gain, 1),
        ),
        None,
    )


SAFE_LUFS, SAFE_PEAK_DBTP = -14.0, -1.0
"""Where a master that is too loud is turned down to when its destination states no level."""


def _gain(sound: AudioFacts, rule: AudioRule, name: str, *, turn_down: bool) -> tuple[float, str, str]:
    """gain = min(target − measured loudness, peak limit − measured true peak), in dB."""
    if sound.integrated_lufs is None or sound.true_peak_dbtp is None:
        return 0.0, "gain_silent", "the sound is silent, so nothing is turned"
    if rule.target_lufs is None or rule.true_peak_limit_dbtp is None:
        if turn_down:
            gain = min(0.0, SAFE_LUFS - sound.integrated_lufs, SAFE_PEAK_DBTP - sound.true_peak_dbtp)
            return round(gain, 2), "gain_turned_down", f"your choice; {name} states no level, so to {level_text(SAFE_LUFS)} LUFS"
        return 0.0, "gain_none", f"{name} leaves the level alone"
    target, limit = f"{level_text(rule.target_lufs)} LUFS", f"{level_text(rule.true_peak_limit_dbtp)} dBTP"
    wanted = rule.target_lufs - sound.integrated_lufs
    room = rule.true_peak_limit_dbtp - sound.true_peak_dbtp
    gain = min(wanted, room)
    if rule.turns == "down" and gain > 0:
        return 0.0, "gain_only_down", f"quieter than {name}'s {target}, and {name} never turns up"
    if room < wanted:
        return round(gain, 2), "gain_peak_limited", f"towards {target} as far as the {limit} limit lets it"
    return round(gain, 2), "gain_to_target", f"to {name}'s {target}, below {limit}"
