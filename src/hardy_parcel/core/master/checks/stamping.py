"""Every check of a master, cleared or not, from its facts and from what was measured (rules §1).

A check that has not been made yet gives no stamp. Held means that the master cannot be packed as it is.
"""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction
from typing import Any

from ...errors import BadChoice
from ...stamps import Outcome
from ...trade.codecs import RATE_AGAINST_H264
from ...values import Model, Rect, level_text, mbps_text, rate_text, seconds_text
from ..facts import COMMON_RATES, INTERLACED, ColourReading, Excerpt, FileFacts, Mending, Scan, VideoFacts
from .colour import contradiction, range_contradiction, wide_gamut
from .combing import measured_scan
from .evidence import Checked, SoundSurvey, Survey
from .measured_cadence import MeasuredCadence, found_cadence
from .silence import SILENT_LUFS, silent

CLEARED, CARE, HELD = Outcome.CLEARED, Outcome.CARE, Outcome.HELD

BLANK_S = 0.7
SHORT_S = 1
LONG_S = 4 * 3600
LOUD_LUFS = -12.0
"""Just above the loudest target of the shipped sheets, −13 LUFS."""
LOUD_PEAK_DBTP = 0.5
CLIPPED_PER_S = 1.0
CLIPPED_LEAST = 12
LOW_SHARE = 0.2
STILL_TEMPORAL = 1.0
COARSE = {"h264": 31.0, "mpeg2video": 9.0, "vp9": 130.0}
"""Quantisers, in each codec's own scale, from which on blocks and smear begin to show."""


class Remedy(StrEnum):
    """What one click does about a finding."""

    TRIM = "trim"
    REMOVE_BARS = "remove_bars"
    DEINTERLACE = "deinterlace"
    CONSTANT_RATE = "constant_rate"
    SQUARE_PIXELS = "square_pixels"
    TURN_DOWN = "turn_down"
    READ_COLOUR = "read_colour"


class CheckStamp(Model):
    """One check. `seen` is what was found, `why` what it does on arrival, `at_s` where to look (s from the first picture).

    `done` says that the remedy is in force: chosen, or always done when packing. `excerpt`, `active`, `field_order`,
    `rates` and `readings` are what the remedy would take.
    """

    code: str
    outcome: Outcome
    matter: str
    seen: str
    at_s: float | None = None
    why: str = ""
    remedy: Remedy | None = None
    remedy_words: str = ""
    done: bool = False
    excerpt: Excerpt | None = None
    active: Rect | None = None
    field_order: Scan | None = None
    rates: tuple[str, ...] = ()
    readings: tuple[ColourReading, ...] = ()


def check_stamps(facts: FileFacts, checked: Checked, *, excerpt: Excerpt | None = None) -> tuple[CheckStamp, ...]:
    """Every check that could be made, held first, then care, then cleared; `excerpt` is the one in force."""
    mending = getattr(facts, "mending", Mending())
    found: list[CheckStamp] = [_length(facts)]
    if facts.carries:
        found.append(_cleared("carries", facts.carries))
    if facts.video is None:
        found.append(_stamp("no_picture", HELD, "no picture", "the file has no moving picture",
                            why="There is nothing to pack for a place that shows films."))
    else:
        found += [_cleared("no_picture", "a moving picture is there"), *_shape(facts.video), *_tags(facts.video, mending)]
        found += [*_rate(facts.video, mending), *_recording(facts.video, checked.picture)]
        if checked.picture:
            survey = checked.picture
            found += _blank(facts, survey, checked.sound, excerpt)
            found += [_bars(facts.video, survey, mending), _scan(facts.video, survey, mending)]
            found += [*_cadence(facts.video, survey), _range(facts.video, survey)]
    found += _sound(facts, checked.sound, mending)
    order = {HELD: 0, CARE: 1, CLEARED: 2}
    return tuple(sorted(found, key=lambda stamp: order[stamp.outcome]))


def mended(
    mending: Mending, offer: CheckStamp, *, on: bool, rate: Fraction | None = None, reading: ColourReading | None = None
) -> Mending:
    """What is mended once the remedy of a stamp is taken or taken back. Raises BadChoice for a rate nobody films at."""
    changes: dict[Remedy, dict[str, object]] = {
        Remedy.REMOVE_BARS: {"remove_bars": offer.active if on else None},
        Remedy.DEINTERLACE: {"deinterlace": offer.field_order if on else Scan.PROGRESSIVE},
        Remedy.CONSTANT_RATE: {"constant_rate": rate if on else None},
        Remedy.TURN_DOWN: {"turn_down": on},
        Remedy.READ_COLOUR: {"colour": reading if on else None},
    }
    if rate is not None and rate not in COMMON_RATES and str(rate) not in offer.rates:
        raise BadChoice(f"{rate_text(rate)} frames/s is no rate for a film.", "Choose one that is offered.")
    return mending.model_copy(update=changes.get(offer.remedy, {})) if offer.remedy else mending


def _stamp(code: str, outcome: Outcome, matter: str, seen: str, **more: Any) -> CheckStamp:
    return CheckStamp(code=code, outcome=outcome, matter=matter, seen=seen, **more)


def _cleared(code: str, seen: str, **more: Any) -> CheckStamp:
    return _stamp(code, CLEARED, seen, seen, **more)


def _length(facts: FileFacts) -> CheckStamp:
    seconds = float(facts.duration_s)
    if seconds < SHORT_S:
        return _stamp("very_short", CARE, "very short", f"{seconds:.2f} s in all", at_s=0.0,
                      why="Many places refuse films this short, and players show a flicker; check that the export finished.")
    if seconds > LONG_S:
        return _stamp("very_long", CARE, "very long", f"{seconds_text(facts.duration_s)} in all", at_s=float(LONG_S),
                      why="Longer than most places take; a forgotten out point at the end is the usual cause.")
    return _cleared("very_short", f"{seconds_text(facts.duration_s)} long")


def _shape(video: VideoFacts) -> list[CheckStamp]:
    found = []
    size = f"{video.coded_width}×{video.coded_height}"
    if video.sample_aspect_ratio != 1:
        shape = f"{video.sample_aspect_ratio.numerator}:{video.sample_aspect_ratio.denominator}"
        found.append(_stamp(
            "non_square_pixels", CARE, "pixels are not square",
            f"{size} with pixels of {shape}, to be shown as {video.display_width}×{video.display_height}", at_s=0.0,
            why="Where the pixel shape is ignored, everything comes out squeezed.",
            remedy=Remedy.SQUARE_PIXELS, remedy_words="packed with square pixels", done=True,
        ))
    else:
        found.append(_cleared("non_square_pixels", "pixels are square"))
    if video.rotation_deg % 360:
        found.append(_stamp(
            "rotated", CARE, "stored turned", f"stored as {size}, to be turned by {video.rotation_deg}°", at_s=0.0,
            why="Where the turn is ignored, the film lies on its side. It is turned upright when packed.", done=True,
        ))
    else:
        found.append(_cleared("rotated", "stored upright"))
    if video.coded_width % 2 or video.coded_height % 2:
        found.append(_stamp(
            "odd_size", CARE, "odd size", f"{size} is not even", at_s=0.0,
            why="Colour is stored for pairs of pixels, so an odd line is lost or padded; packing leaves it out.",
        ))
    else:
        found.append(_cleared("odd_size", f"{size} is even"))
    return found


def _tags(video: VideoFacts, mending: Mending) -> list[CheckStamp]:
    tags, found = video.colour, []
    if tags.hdr:
        name = "PQ" if tags.transfer == "smpte2084" else "HLG"
        found.append(_stamp(
            "hdr", HELD, "high dynamic range", f"transfer {name} ({tags.transfer})", at_s=0.0,
            why="Packing makes standard range; without a grade its colours would come out grey. Export an SDR master.",
        ))
    elif wide_gamut(tags):
        found.append(_stamp(
            "hdr", CARE, "wide gamut", f"{tags.primaries} primaries in standard range", at_s=0.0,
            why="Most screens and every packed file are BT.709, so strong colours will come out duller.",
        ))
    else:
        found.append(_cleared("hdr", "standard dynamic range"))
    if tags.untagged:
        guess = "BT.601" if min(video.display_width, video.display_height) < 720 else "BT.709"
        found.append(_stamp(
            "untagged_colour", CARE, "untagged colour", f"no primaries, transfer or matrix are stated; {guess} is a guess",
            at_s=0.0, why="Every player guesses for itself; skin and sea shift by a shade when one guesses wrong.",
            remedy=Remedy.READ_COLOUR, done=mending.colour is not None, readings=tuple(ColourReading),
            remedy_words=f"read as {mending.colour.words}" if mending.colour else "say how it is to be read",
        ))
    else:
        said = ", ".join(dict.fromkeys(t for t in (tags.primaries, tags.transfer, tags.matrix) if t))
        found.append(_cleared("untagged_colour", f"tagged {said}"))
    clash = contradiction(video)
    if clash:
        found.append(_stamp("contradictory_colour", CARE, "colour tags disagree", clash, at_s=0.0,
                            why="Players trust one or the other, so colours differ from place to place."))
    else:
        found.append(_cleared("contradictory_colour", "colour tags agree"))
    return found


def _rate(video: VideoFacts, mending: Mending) -> list[CheckStamp]:
    if not video.variable_rate:
        return [_cleared("variable_rate", f"constant at {rate_text(video.frame_rate)} frames/s")]
    chosen = mending.constant_rate or video.frame_rate
    typical = video.typical_rate or float(video.frame_rate)
    near = sorted(COMMON_RATES, key=lambda rate: abs(float(rate) - typical))[:2]
    offered = list(dict.fromkeys([str(video.frame_rate), *map(str, near)]))
    span = f"{video.lowest_rate or 0:.1f} to {video.highest_rate or 0:.1f}"
    return [_stamp(
        "variable_rate", CARE, "variable frame rate", f"{span} frames/s, mostly {typical:.2f}", at_s=0.0,
        why="Platforms make it constant their own way, and sound can drift from the picture.",
        remedy=Remedy.CONSTANT_RATE, remedy_words=f"packed at a constant {rate_text(chosen)} frames/s", done=True,
        rates=tuple(offered),
    )]


def _recording(video: VideoFacts, survey: Survey | None) -> list[CheckStamp]:
    """A recording poorer than the export. Few bits are enough for a simple picture: the quantiser tells, else movement."""
    if not video.bitrate_bps or video.codec not in RATE_AGAINST_H264 or survey is None:
        return []
    pixels = video.coded_width * video.coded_height
    usual = 7.0e6 * (pixels / (1920 * 1080)) ** 0.85 * (1.5 if video.frame_rate > 31 else 1.0) * RATE_AGAINST_H264[video.codec]
    share = video.bitrate_bps / usual
    recorded = f"recorded at {mbps_text(video.bitrate_bps)}"
    if share >= LOW_SHARE:
        return [_cleared("low_recorded_rate", recorded)]
    if survey.quantiser is not None and video.codec in COARSE:
        poor = survey.quantiser >= COARSE[video.codec]
    else:
        temporal = sorted(second.temporal for second in survey.difficulty)
        poor = not temporal or temporal[len(temporal) // 2] >= STILL_TEMPORAL
    if not poor:
        return [_cleared("low_recorded_rate", f"{recorded}, enough for so simple a picture")]
    return [_stamp(
        "low_recorded_rate", CARE, "recorded poorly",
        f"{mbps_text(video.bitrate_bps)} for {video.coded_width}×{video.coded_height} at {rate_text(video.frame_rate)} frames/s, "
        f"{share:.0%} of what such films usually have", at_s=0.0,
        why="What was lost when recording cannot come back; look for a better copy before you pack this one.",
    )]


def _blank(facts: FileFacts, survey: Survey, sound: SoundSurvey | None, excerpt: Excerpt | None) -> list[CheckStamp]:
    length = float(facts.duration_s)
    head, tail = survey.blank_head_s, survey.blank_tail_s
    if facts.audio is not None and sound is None:
        return []  # the sound decides, and it is still being measured
    head = head if head >= BLANK_S and silent(sound, 0.0, head) else 0.0
    tail = tail if tail >= BLANK_S and silent(sound, length - tail, length) else 0.0
    if head >= length - 0.05:
        return [_stamp("blank_head", CARE, "blank throughout", "black and silent from the first picture to the last", at_s=0.0,
                       why="There is nothing to see or hear; this is probably the wrong file.")]
    start = Fraction(round(head * 1000), 1000) if head else Fraction(0)
    end = facts.duration_s - Fraction(round(tail * 1000), 1000) if tail else facts.duration_s
    keep = Excerpt(in_s=start, out_s=end)
    inside = excerpt or Excerpt(in_s=Fraction(0), out_s=facts.duration_s)
    found = []
    for code, blank, at, trimmed in (
        ("blank_head", head, 0.0, inside.in_s >= start - Fraction(1, 20)),
        ("blank_tail", tail, length - tail, inside.out_s <= end + Fraction(1, 20)),
    ):
        place = "start" if code == "blank_head" else "end"
        if not blank:
            found.append(_cleared(code, f"no blank {'head' if code == 'blank_head' else 'tail'}"))
            continue
        found.append(_stamp(
            code, CLEARED if trimmed else CARE, f"blank {'head' if code == 'blank_head' else 'tail'}",
            f"{blank:.2f} s of black and silence at the {place}", at_s=round(at, 3),
            why="Viewers leave, and the first or last picture that a platform shows is black.",
            remedy=Remedy.TRIM, remedy_words="left out by the excerpt" if trimmed else "trim it", done=trimmed, excerpt=keep,
        ))
    return found


def _bars(video: VideoFacts, survey: Survey, mending: Mending) -> CheckStamp:
    active = survey.active
    if active is None:
        return _cleared("baked_bars", "no baked-in bars")
    sides = {
        "above": active.y, "below": video.coded_height - active.y - active.height,
        "left": active.x, "right": video.coded_width - active.x - active.width,
    }
    told = ", ".join(f"{pixels} px {side}" for side, pixels in sides.items() if pixels)
    return _stamp(
        "baked_bars", CARE, "baked-in bars", f"{told}; the picture itself is {active.width}×{active.height}", at_s=None,
        why="A platform adds bars of its own around yours, and bits are spent on their edges.",
        remedy=Remedy.REMOVE_BARS, remedy_words="bars are removed when packed" if mending.remove_bars else "remove the bars",
        done=mending.remove_bars is not None, active=display_rect(active, video),
    )


def display_rect(active: Rect, video: VideoFacts) -> Rect:
    """A rectangle of coded pixels in display pixels: squared, then turned; even edges inside the picture."""
    across = Fraction(video.display_width if video.rotation_deg % 180 == 0 else video.display_height, video.coded_width)
    x0, x1 = active.x * across, (active.x + active.width) * across
    y0, y1 = Fraction(active.y), Fraction(active.y + active.height)
    width, height = video.coded_width * across, Fraction(video.coded_height)
    turn = video.rotation_deg % 360
    if turn == 90:
        x0, x1, y0, y1 = height - y1, height - y0, x0, x1
    elif turn == 180:
        x0, x1, y0, y1 = width - x1, width - x0, height - y1, height - y0
    elif turn == 270:
        x0, x1, y0, y1 = y0, y1, width - x1, width - x0
    left, top = 2 * -(-x0 // 2), 2 * -(-y0 // 2)
    return Rect(x=int(left), y=int(top), width=int(2 * ((x1 - left) // 2)), height=int(2 * ((y1 - top) // 2)))


def _scan(video: VideoFacts, survey: Survey, mending: Mending) -> CheckStamp:
    measured = measured_scan(survey.windows)
    flagged = video.scan
    if measured.scan in INTERLACED:
        agrees = f"measured {measured.scan}" if measured.scan is flagged else f"flagged {flagged}, measured {measured.scan}"
        return _stamp(
            "interlaced", CARE, "interlaced", f"{agrees}, in {measured.agreeing} of {measured.windows} moving places",
            at_s=measured.at_s, why="Fine combs stay on everything that moves, and re-encoding smears them.",
            remedy=Remedy.DEINTERLACE, done=(done := mending.deinterlace is not Scan.PROGRESSIVE), field_order=measured.scan,
            remedy_words="deinterlaced when packed" if done else "deinterlace",
        )
    if flagged in INTERLACED:
        if measured.scan is Scan.PROGRESSIVE:
            return _cleared("interlaced", f"flagged {flagged}, measured progressive")
        return _stamp(
            "interlaced", CARE, "flagged interlaced", f"flagged {flagged}; nothing moves enough to measure it", at_s=0.0,
            why="If it is interlaced, combs will show on whatever moves.",
            remedy=Remedy.DEINTERLACE, done=(done := mending.deinterlace in INTERLACED), field_order=flagged,
            remedy_words="deinterlaced when packed" if done else "deinterlace",
        )
    return _cleared("interlaced", "measured progressive" if measured.windows else "flagged progressive; nothing moves enough to measure")


def _cadence(video: VideoFacts, survey: Survey) -> list[CheckStamp]:
    interlaced = measured_scan(survey.windows).scan in INTERLACED
    found = found_cadence(survey.windows, video.frame_rate, interlaced=interlaced)
    repeated, blended = _cleared("repeated_frames", found.words), _cleared("blended_frames", "no blended pictures")
    if found.kind is MeasuredCadence.REPEATED and not video.variable_rate:
        repeated = _stamp(
            "repeated_frames", CARE, "repeated pictures", found.words, at_s=round(found.at_s, 3),
            why="Movement stutters, and the repeats cost bits; export again at the rate it was shot at.",
        )
    elif found.kind is MeasuredCadence.HELD:
        repeated = _cleared("repeated_frames", found.words, at_s=round(found.at_s, 3))
    elif found.kind is MeasuredCadence.BLENDED:
        repeated = _cleared("repeated_frames", "no repeated pictures")
        blended = _stamp(
            "blended_frames", CARE, "blended pictures", found.words, at_s=round(found.at_s, 3),
            why="Double edges look like softness and cannot be taken apart; export again without mixing pictures.",
        )
    return [repeated, blended]


def _range(video: VideoFacts, survey: Survey) -> CheckStamp:
    clash = range_contradiction(video, survey.levels)
    if clash is None:
        return _cleared("range_mismatch", f"levels fit {'full' if video.colour.range == 'pc' else 'limited'} range")
    return _stamp("range_mismatch", CARE, "range mismatch", clash, at_s=0.0,
                  why="Blacks come out crushed or grey, whites clipped or dull.")


def _sound(facts: FileFacts, sound: SoundSurvey | None, mending: Mending) -> list[CheckStamp]:
    if facts.audio is None:
        return [_stamp("no_audio", CARE, "no sound", "the file has no sound", at_s=0.0,
                       why="If it should have some, it was left out of the export; some places refuse silent films.")]
    found = [_cleared("no_audio", "sound is there")]
    if sound is None or not sound.complete:
        return found
    heard = [level for level in sound.envelope_lufs if level is not None and level > SILENT_LUFS]
    if facts.audio.integrated_lufs is None and not heard:
        return [*found, _stamp("silent_audio", CARE, "silent sound", "the sound is silent from start to end", at_s=0.0,
                               why="A muted track looks like a mistake to viewers; unmute it, or leave the sound out.")]
    found.append(_cleared("silent_audio", "something is to be heard"))
    seconds = sound.samples / max(1, facts.audio.sample_rate_hz * facts.audio.channels)
    clipped = sound.flat_tops + sound.over_full_scale
    if clipped >= CLIPPED_LEAST and clipped / max(seconds, 1.0) >= CLIPPED_PER_S:
        found.append(_stamp(
            "clipped_audio", CARE, "clipped sound", f"{clipped} samples cut off at the limit, {clipped / max(seconds, 1e-3):.0f} a second",
            at_s=sound.first_clipped_s, why="The crackle stays whatever the level; go back to the mix.",
        ))
    else:
        found.append(_cleared("clipped_audio", "no clipping"))
    found.append(_loud(facts, sound, mending))
    return found


def _loud(facts: FileFacts, sound: SoundSurvey, mending: Mending) -> CheckStamp:
    level, peak = facts.audio.integrated_lufs, facts.audio.true_peak_dbtp  # type: ignore[union-attr]
    if level is None or peak is None:
        return _cleared("loud_audio", "too little sound to measure")
    words = f"{level_text(level)} LUFS, true peak {level_text(peak)} dBTP"
    if level <= LOUD_LUFS and peak <= LOUD_PEAK_DBTP:
        return _cleared("loud_audio", words)
    loudest = max(
        (i for i, value in enumerate(sound.envelope_lufs) if value is not None),
        key=lambda i: sound.envelope_lufs[i] or -99.0, default=0,
    )
    return _stamp(
        "loud_audio", CARE, "too loud" if level > LOUD_LUFS else "peaks too high", words, at_s=round(loudest * sound.step_s, 2),
        why="Platforms turn loud films down and the peaks distort on the way.",
        remedy=Remedy.TURN_DOWN, remedy_words="turned down when packed" if mending.turn_down else "turn the level down",
        done=mending.turn_down,
    )
