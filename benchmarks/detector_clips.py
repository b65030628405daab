"""The set: at least twenty films with each trouble and twenty hard ones without, by code."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np

from hardy_parcel.core.master.facts import ColourTags

from .detector_films import (
    HD,
    SOUND_RATE,
    Clip,
    Scene,
    Taste,
    _every,
    finish,
    set_edit_free_tail,
    speech,
    write,
    write_sound_only,
)

QUIET = np.zeros((2, SOUND_RATE), np.float32)


def _black(taste: Taste, count: int, noise: float | None = None):
    rng = taste.rng
    for _ in range(count):
        yield finish(np.full(taste.size[::-1], 16.0), min(1.5, taste.noise if noise is None else noise), rng)


def _blank(taste: Taste, path: Path, *, head: float = 0.0, tail: float = 0.0, heard: bool = False) -> None:
    rate, body = taste.rate, 1.6
    seconds = head + body + tail
    sound = speech(seconds, taste.number)
    if not heard:
        sound[:, : round(head * SOUND_RATE)] = 0
        sound[:, round((head + body) * SOUND_RATE) :] = 0

    def pictures():
        yield from _black(taste, round(head * rate))
        yield from taste.plain(body)
        yield from _black(taste, round(tail * rate))

    taste.save(path, pictures(), sound=sound)


def _ending(taste: Taste, path: Path, kind: str) -> None:
    """Hard endings and beginnings that are not blank: fades, night, stars, credits, black with sound."""
    rate, rng, scene = taste.rate, taste.rng, taste.scene()
    count = round(3 * rate)
    stars = rng.integers(0, (taste.size[1], taste.size[0]), (40, 2))
    night = taste.scene(level=24.0, contrast=5.0)

    def pictures():
        for i in range(count):
            share = i / count
            if kind == "fade":
                luma = 16 + (scene(float(i / rate)) - 16) * min(1, (1 - share) * 2.2, share * 3.3 + 0.02)
            elif kind == "night" and (share > 0.55 or share < 0.2):
                luma = np.maximum(16, night(float(i / rate)))
            elif kind == "stars" and share > 0.5:
                luma = np.full(taste.size[::-1], 16.0)
                luma[stars[:, 0], stars[:, 1]] = 150 + 60 * np.sin(i / 5)
            elif kind == "credits" and share > 0.5:
                luma = np.full(taste.size[::-1], 16.0)
                for line in range(6):
                    y = round(line * 22 - (i - count / 2) * 1.3) % (taste.size[1] - 4)
                    luma[y : y + 3, taste.size[0] // 3 : taste.size[0] * 2 // 3 : 2] = 210
            else:
                luma = scene(float(i / rate))
            yield finish(luma, taste.noise, rng)

    silent = kind in ("night", "stars", "fade")
    taste.save(path, pictures(), sound=np.zeros((2, 3 * SOUND_RATE), np.float32) if silent else speech(3, taste.number))


def blanks() -> list[Clip]:
    lengths = (0.9, 1.2, 1.6, 2.3)
    clips = _every("blank_head", 22, lambda t, p: _blank(t, p, head=lengths[t.number % 4]))
    clips += _every("blank_tail", 22, lambda t, p: _blank(t, p, tail=lengths[t.number % 4]))
    clips += _every("blank_head", 4, lambda t, p: _blank(t, p, head=1.2, tail=1.4), also=("blank_tail",), label="both")
    for kind in ("fade", "night", "stars", "credits"):
        also = ("silent_audio",) if kind in ("night", "stars", "fade") else ()
        clips += _every("blank_tail", 8, lambda t, p, k=kind: _ending(t, p, k), expected=False, also=also, label=kind)
    clips += _every("blank_head", 6, lambda t, p: _blank(t, p, head=1.5, tail=1.5, heard=True), expected=False, label="heard")
    clips += _every("blank_tail", 6, lambda t, p: _blank(t, p, tail=0.3, head=0.2), expected=False, label="blink")
    return clips


BARS = ((0.12, 0.12, 0, 0), (0.1, 0.1, 0.1, 0.1), (0, 0, 0.125, 0.125), (0.06, 0.06, 0, 0), (0, 0, 0.03, 0.03), (0.2, 0.06, 0, 0))


def _bars(taste: Taste, path: Path) -> None:
    w, h = taste.size
    up, down, left, right = BARS[(taste.number // 2) % len(BARS)]
    y0, y1, x0, x1 = round(h * up), h - round(h * down), round(w * left), w - round(w * right)
    inner = Scene(taste.number * 31 + 5, x1 - x0, y1 - y0)
    rng = taste.rng

    def pictures():
        for i in range(round(2.4 * taste.rate)):
            luma = np.full((h, w), 16.0)
            luma[y0:y1, x0:x1] = inner(float(i / taste.rate))
            if taste.number % 5 == 2 and i % 41 == 7:
                luma[:] = 200  # a single flash over the whole frame
            if taste.number % 4 == 1:
                luma[y1 + (h - y1) // 3 : y1 + (h - y1) // 3 + 2, w // 3 : w // 3 + 3] += 90 * (i > 1e9)
            yield finish(luma, min(1.2, taste.noise), rng)

    taste.save(path, pictures())


def _not_bars(taste: Taste, path: Path, kind: str) -> None:
    """Dark skies, vignettes, a letterboxed part, a picture on black, a black object at the edge."""
    w, h = taste.size
    rng, scene = taste.rng, taste.scene()
    y, x = np.linspace(0, 1, h)[:, None], np.linspace(-1, 1, w)[None]

    def pictures():
        for i in range(round(2.4 * taste.rate)):
            luma = scene(float(i / taste.rate))
            if kind == "sky":
                luma = 16 + (luma - 16) * np.clip((y - 0.3) * 2.2, 0, 1)
            elif kind == "vignette":
                luma = 16 + (luma - 16) * np.clip(1.25 - 1.1 * (x**2 + (2 * y - 1) ** 2), 0, 1)
            elif kind == "credits" and i > 1.5 * taste.rate:
                luma[: h // 6] = luma[-(h // 6) :] = 16
            elif kind == "stage":
                luma = 16 + (luma - 16) * (np.abs(x + 0.3 * np.sin(i / 9)) < 0.4)
            elif kind == "floor":
                luma[-h // 9 :] = 30 + 4 * np.sin(x * 40 + i / 3)
            yield finish(luma, max(0.6, taste.noise), rng)

    taste.save(path, pictures())


def _round(taste: Taste, path: Path, kind: str) -> None:
    """Something on black that is no picture between bars: a planet, a lamp that swells, a ring, a sign, a moon that crosses."""
    w, h = taste.size
    rng, scene = taste.rng, taste.scene()
    y, x = np.mgrid[:h, :w]
    half = min(w, h) / 2

    def pictures():
        for i in range(round(2.4 * taste.rate)):
            radius = half * (0.72 + (0.12 * np.sin(i / 7) if kind == "lamp" else 0))
            across = x - w / 2 - (0.2 * w * np.sin(i / 20) if kind == "moon" else 0)
            far = np.hypot(across, y - h / 2)
            inside = far < radius
            if kind == "ring":
                inside &= far > 0.6 * radius
            elif kind == "sign":
                inside = np.abs(across) + np.abs(y - h / 2) < radius
            yield finish(np.where(inside, scene(float(i / taste.rate)), 16.0), min(1.2, taste.noise), rng)

    taste.save(path, pictures())


def bars() -> list[Clip]:
    clips = _every("baked_bars", 24, _bars)
    for kind in ("sky", "vignette", "credits", "stage", "floor"):
        clips += _every("baked_bars", 6, lambda t, p, k=kind: _not_bars(t, p, k), expected=False, label=kind)
    for kind in ("planet", "lamp", "ring", "sign", "moon"):
        clips += _every("baked_bars", 6, lambda t, p, k=kind: _round(t, p, k), expected=False, label=kind)
    return clips


def _fields(taste: Taste, path: Path) -> None:
    """Two fields from different times in every picture; as flagged, unflagged, or flagged the wrong way round."""
    rate = (Fraction(25), Fraction(30000, 1001))[taste.number % 2]
    size = ((352, 288), (720, 576), (352, 240), (480, 270))[taste.number % 4]
    scene, rng = Scene(taste.number * 13 + 1, *size), taste.rng
    bottom_first = taste.number % 3 == 1
    flag = ("tff", "", "bff" if bottom_first else "tff")[taste.number % 3]

    def pictures():
        for i in range(round((1.4 if size[0] > 700 else 2.0) * rate)):
            first, second = scene(float(i / rate)), scene(float((i + Fraction(1, 2)) / rate))
            woven = second.copy() if bottom_first else first.copy()
            woven[1::2] = first[1::2] if bottom_first else second[1::2]
            yield finish(woven, taste.noise, rng)

    codec = ("libx264", "mpeg2video", "libx264")[(taste.number // 4) % 3]
    taste.save(path, pictures(), rate, codec=codec, interlaced=flag, quality=min(27, taste.quality))


def _patterns(taste: Taste, path: Path, kind: str) -> None:
    """Fine patterns that look like combs: stripes, checks, text lines, vertical movement; some flagged interlaced."""
    w, h = taste.size
    rng, scene = taste.rng, taste.scene()
    y, x = np.arange(h)[:, None], np.arange(w)[None]
    period = (2.0, 2.5, 3.0, 5.0, 6.0)[taste.number % 5]
    speed = (0.3, 0.7, 1.0, 2.0, 0.0)[(taste.number // 2) % 5]

    def pictures():
        for i in range(round(1.6 * taste.rate)):
            luma = scene(float(i / taste.rate))
            if kind == "stripes":
                luma = luma * 0.5 + 60 + 45 * np.sin(2 * np.pi * (y - speed * i) / period)
            elif kind == "blinds":
                shift = 3.0 * i
                luma[:, (x[0] > shift % w) & (x[0] < shift % w + w // 3)] += (40 * ((y % 2) * 2 - 1))[:, :1]
            elif kind == "tilt":
                luma = np.roll(luma, round(speed * 2 * i), axis=0)
            yield finish(luma, taste.noise, rng)

    taste.save(path, pictures(), interlaced="tff" if taste.number % 2 and kind != "blinds" else "")


def interlacing() -> list[Clip]:
    clips = _every("interlaced", 24, _fields)
    for kind in ("stripes", "blinds", "tilt"):
        clips += _every("interlaced", 9, lambda t, p, k=kind: _patterns(t, p, k), expected=False, label=kind,
                        doubtful=("repeated_frames", "blended_frames", "baked_bars"))
    return clips


KEYFRAMES = (48, 72, 250)
CONVERSIONS = ((24, 30), (25, 50), (25, 30), (24, 25), (30, 60), (24, 60), (20, 25), (15, 60), (48, 60), (50, 60))


def _repeated(taste: Taste, path: Path) -> None:
    source, rate = CONVERSIONS[taste.number % len(CONVERSIONS)]
    scene, rng = taste.scene(), taste.rng
    grain: dict[int, np.ndarray] = {}

    def pictures():
        for i in range(round(3.2 * rate)):
            k = i * source // rate
            if k not in grain:
                grain.clear()
                grain[k] = finish(scene(k / source), taste.noise, rng)
            yield grain[k]

    taste.save(path, pictures(), Fraction(rate), quality=min(27, taste.quality))


def _stutter(taste: Taste, path: Path) -> None:
    """A capture that missed about one picture in eight."""
    scene, rng, last = taste.scene(), taste.rng, None
    rate = Fraction((30, 60)[taste.number % 2])

    def pictures():
        nonlocal last
        for i in range(round(4 * rate)):
            if last is None or rng.random() > 0.13:
                last = finish(scene(float(i / rate)), taste.noise, rng)
            yield last

    taste.save(path, pictures(), rate)


def _held(taste: Taste, path: Path) -> None:
    """Drawings on twos or threes at 30 frames/s or less: on purpose."""
    rate = (Fraction(24), Fraction(25), Fraction(30), Fraction(24000, 1001))[taste.number % 4]
    hold = 2 + (taste.number // 4) % 2
    scene, rng = taste.scene(contrast=12.0), taste.rng

    def pictures():
        drawing = None
        for i in range(round(2.6 * rate)):
            if i % hold == 0:
                drawing = finish(scene(float(i / rate)), 0.0, rng)
            yield drawing

    taste.save(path, pictures(), rate)


def _easing(taste: Taste, path: Path) -> None:
    """Movements that slow down, stop, and start again; cuts; a flash."""
    rate, rng = taste.rate, taste.rng
    scenes = [taste.scene(), Scene(taste.number + 900, *taste.size)]

    def pictures():
        for i in range(round(3 * rate)):
            t = float(i / rate)
            eased = 1.2 * (1 - np.cos(np.pi * t / 1.5)) / 2 if taste.number % 2 else np.tanh(t)
            luma = scenes[int(t / 1.1) % 2](eased)
            if i % 37 == 20:
                luma = luma + 60
            yield finish(luma, taste.noise, rng)

    taste.save(path, pictures())


def _dissolve(taste: Taste, path: Path) -> None:
    """Shots that fade into one another."""
    rate, rng = taste.rate, taste.rng
    one, other = taste.scene(), Scene(taste.number + 500, *taste.size)

    def pictures():
        for i in range(round(3 * rate)):
            share = min(1.0, max(0.0, (i / rate - 0.8) / 1.2))
            yield finish((1 - share) * one(float(i / rate)) + share * other(float(i / rate)), taste.noise, rng)

    taste.save(path, pictures())


def _blended(taste: Taste, path: Path) -> None:
    source, rate = ((25, 30), (24, 30), (30, 25), (50, 60))[taste.number % 4]
    scene, rng = taste.scene(lively=2.0 if source == 50 else 1.3), taste.rng
    middle = taste.number % 4 == 3

    def pictures():
        for i in range(round(4 * rate)):
            place = Fraction(i * source, rate)
            k, share = int(place), float(place - int(place))
            if middle:
                share = 0.0 if share < 0.3 else 1.0 if share > 0.7 else 0.5
            a = scene(k / source)
            luma = a if share == 0 else (1 - share) * a + share * scene((k + 1) / source)
            yield finish(luma, taste.noise, rng)

    # A coarser recording hides a blend in its own smear; nothing is claimed there.
    taste.save(path, pictures(), Fraction(rate), quality=min(23, taste.quality), keyframes=KEYFRAMES[taste.number % 3])


def _every_fifth(taste: Taste, path: Path) -> None:
    """One picture in so many is the mean of its neighbours."""
    scene, rng, rate = taste.scene(), taste.rng, Fraction(30)
    step = 4 + taste.number % 3

    def pictures():
        for i in range(round(2.4 * rate)):
            luma = scene(float(i / rate))
            if i % step == 2:
                luma = (scene(float((i - 1) / rate)) + scene(float((i + 1) / rate))) / 2
            yield finish(luma, taste.noise, rng)

    taste.save(path, pictures(), rate)


def cadences() -> list[Clip]:
    clips = _every("repeated_frames", 20, _repeated)
    clips += _every("repeated_frames", 6, _stutter, label="stutter")
    clips += _every("repeated_frames", 12, _held, expected=False, label="held")
    clips += _every("repeated_frames", 14, _easing, expected=False, label="easing")
    clips += _every("blended_frames", 25, _blended)
    clips += _every("blended_frames", 16, _every_fifth, label="fifth")
    clips += _every("blended_frames", 16, lambda t, p: t.save(
        p, t.plain(4), quality=(24, 28, 32, 36)[t.number % 4], keyframes=(*KEYFRAMES, None)[t.number % 4]),
                    expected=False, label="coarse", doubtful=("low_recorded_rate",))
    clips += _every("blended_frames", 10, _dissolve, expected=False, label="dissolve")
    clips += _every("blended_frames", 8, lambda t, p: t.save(p, t.plain(4, t.scene(lively=0.25))), expected=False, label="slow")
    return clips


def _ranges(taste: Taste, path: Path, kind: str) -> None:
    scene, rng = taste.scene(), taste.rng

    def pictures():
        for i in range(round(1.4 * taste.rate)):
            luma = scene(float(i / taste.rate))
            if kind in ("full", "limited"):
                luma = 110 + (luma - 110) * 1.9
            if kind == "full":
                whole = (np.clip(luma, 16, 235) - 16) * 255 / 219 + rng.normal(0, taste.noise, luma.shape)
                yield np.clip(np.round(whole), 0, 255).astype(np.uint8)
            elif kind == "whites":
                yield np.clip(np.round(luma * 1.35 + rng.normal(0, taste.noise, luma.shape)), 17, 254).astype(np.uint8)
            else:
                yield finish(luma, 0.0 if kind == "limited" else taste.noise, rng)

    tags = HD if kind in ("full", "whites", "fits") else HD.model_copy(update={"range": "pc"})
    taste.save(path, pictures(), colour=tags, quality=min(27, taste.quality))


def ranges() -> list[Clip]:
    return [
        *_every("range_mismatch", 14, lambda t, p: _ranges(t, p, "full"), label="full"),
        *_every("range_mismatch", 8, lambda t, p: _ranges(t, p, "limited"), label="limited"),
        *_every("range_mismatch", 12, lambda t, p: _ranges(t, p, "whites"), expected=False, label="whites"),
        *_every("range_mismatch", 8, lambda t, p: _ranges(t, p, "fits"), expected=False, label="fits"),
    ]


def _loud(taste: Taste, path: Path, *, gain: float, clip: bool, codec: str = "aac") -> None:
    sound = speech(2.5, taste.number) * gain
    if clip:
        sound = np.clip(sound, -1, 1) * (1.0, 0.9, 0.97)[taste.number % 3]
    still = (finish(taste.scene()(0.0), 0.0, taste.rng) for _ in range(round(2.5 * taste.rate)))
    taste.save(path, still, sound=sound, sound_codec=codec)


def _crest(taste: Taste, path: Path) -> None:
    """Loud but whole: a pure tone, or speech, brought up to just below full scale."""
    t = np.arange(round(2.5 * SOUND_RATE)) / SOUND_RATE
    tone = np.sin(2 * np.pi * (60, 110, 440, 997)[taste.number % 4] * t)
    wave = tone * (0.35 if taste.number % 2 else 0.3) if taste.number % 3 else speech(2.5, taste.number, lufs_like=0.97)[0]
    still = (finish(taste.scene()(0.0), 0.0, taste.rng) for _ in range(round(2.5 * taste.rate)))
    codec = ("aac", "pcm_s16le")[taste.number % 2]
    taste.save(path, still, sound=np.stack([wave, wave]).astype(np.float32), sound_codec=codec)


def _silent(taste: Taste, path: Path) -> None:
    rng = np.random.default_rng(taste.number)
    hiss = rng.normal(0, (0, 3e-5, 1e-4)[taste.number % 3], (2, 2 * SOUND_RATE)).astype(np.float32)
    taste.save(path, taste.plain(2.0), sound=hiss)


def sounds() -> list[Clip]:
    both = ("loud_audio",)
    return [
        *_every("clipped_audio", 12, lambda t, p: _loud(t, p, gain=(40.0, 60.0, 90.0)[t.number % 3], clip=True), also=both),
        *_every("clipped_audio", 10, lambda t, p: _loud(t, p, gain=(40.0, 80.0)[t.number % 2], clip=True, codec="pcm_s16le"),
                also=both, ending=".mov", label="pcm"),
        *_every("clipped_audio", 22, _crest, expected=False, ending=".mov", label="crest", doubtful=("loud_audio",)),
        *_every("silent_audio", 20, _silent),
        *_every("silent_audio", 12, lambda t, p: t.save(p, t.plain(1.6), sound=speech(1.6, t.number, lufs_like=0.01)), expected=False,
                label="quiet"),
        *_every("loud_audio", 20, lambda t, p: _loud(t, p, gain=(0.5, 1.0, 1.9)[t.number % 3], clip=False), expected=False, label="level"),
    ]


def _poor(taste: Taste, path: Path) -> None:
    w, h = ((640, 360), (480, 270), (854, 480))[taste.number % 3]
    scene = Scene(taste.number * 7 + 2, w, h)
    bps = round(0.08 * 7e6 * (w * h / 2073600) ** 0.85)
    taste.save(path, taste.plain(2.4, scene, Fraction(25)), Fraction(25), bps=bps)


def _still_poor(taste: Taste, path: Path) -> None:
    """Slides: next to nothing moves, so few bits are enough."""
    scene, rng = taste.scene(), taste.rng
    slides = [finish(scene(t), 0.0, rng) for t in (0.0, 1.4, 2.9)]
    taste.save(path, (slides[int(i / taste.rate / 1.2) % 3] for i in range(round(3.6 * taste.rate))), quality=27)


def recordings() -> list[Clip]:
    return [
        *_every("low_recorded_rate", 21, _poor, doubtful=("repeated_frames", "blended_frames")),
        *_every("low_recorded_rate", 12, _still_poor, expected=False, label="slides"),
    ]


def _tags(**tags: str | None) -> ColourTags:
    return ColourTags(**{"range": "tv", **tags})


CLASHES = (
    _tags(primaries="bt709", transfer="bt709", matrix="smpte170m"), _tags(primaries="bt2020", transfer="bt709", matrix="bt709"),
    _tags(primaries="smpte170m", transfer="smpte170m", matrix="bt709"), _tags(primaries="bt709", transfer="bt709", matrix="bt2020nc"),
)
AGREEING = (
    _tags(primaries="smpte170m", transfer="smpte170m", matrix="smpte170m"), _tags(primaries="bt470bg", transfer="bt709", matrix="bt470bg"),
    _tags(primaries="bt709", transfer="iec61966-2-1", matrix="bt709"), _tags(primaries="bt470bg", transfer="smpte170m", matrix="smpte170m"),
)
DEEP = tuple(_tags(primaries="bt2020", transfer=transfer, matrix="bt2020nc") for transfer in ("smpte2084", "arib-std-b67"))


def _short(taste: Taste) -> Scene:
    return taste.scene()


def _uneven(taste: Taste, path: Path) -> None:
    """A phone's times: a common rate with jitter, gaps and a change of pace."""
    rng, times, t = taste.rng, [], 0.0
    for i in range(60):
        times.append(t)
        jitter = 1 + 0.175 * rng.standard_normal() if taste.number % 2 else 1.0
        missed = 2 if i % (5 + taste.number % 4) == 3 else 1
        t += jitter * missed / (30, 25, 60)[taste.number % 3]
        t = max(t, times[-1] + 0.004)
    scene = _short(taste)
    taste.save(path, (finish(scene(s), taste.noise, rng) for s in times), Fraction(30), times_s=times)


def _rounded(taste: Taste, path: Path) -> None:
    """A constant rate in whole milliseconds: rounding is not variation."""
    rate = RATES_ROUNDED[taste.number % len(RATES_ROUNDED)]
    write(path, taste.plain(1.4, rate=rate), rate, quality=taste.quality, sound=None)


RATES_ROUNDED = (Fraction(24000, 1001), Fraction(30000, 1001), Fraction(30), Fraction(24), Fraction(25), Fraction(60))


def _clashing(taste: Taste, path: Path) -> None:
    if taste.number % 5 == 4:
        taste.save(path, taste.plain(1.1))
        set_edit_free_tail(path)
    else:
        taste.save(path, taste.plain(1.1), colour=CLASHES[taste.number % len(CLASHES)])


def _odd(taste: Taste, path: Path) -> None:
    w, h = taste.size
    scene = Scene(taste.number + 5, w - taste.number % 2, h - (1 - taste.number % 2))
    write(path, taste.plain(1.1, scene), taste.rate, codec="ffv1", sound=None, colour=HD,
          pixel_format=("yuv420p", "yuv444p")[taste.number % 2])


def headers() -> list[Clip]:
    shapes = (Fraction(16, 15), Fraction(64, 45), Fraction(4, 3), Fraction(10, 11))
    silent_black = np.zeros((2, 2000), np.float32)
    return [
        *_every("variable_rate", 21, _uneven, doubtful=("repeated_frames", "blended_frames")),
        *_every("variable_rate", 12, _rounded, expected=False, also=("no_audio",), ending=".mkv", label="rounded"),
        *_every("non_square_pixels", 20, lambda t, p: t.save(p, t.plain(1.1), shape=shapes[t.number % 4])),
        *_every("rotated", 21, lambda t, p: t.save(p, t.plain(1.1), turned=(90, 180, 270)[t.number % 3])),
        *_every("no_audio", 20, lambda t, p: t.save(p, t.plain(1.1), sound=None)),
        *_every("no_picture", 20, lambda t, p: write_sound_only(p, speech(1.2 + t.number / 10, t.number)), ending=".m4a"),
        *_every("untagged_colour", 20, lambda t, p: t.save(p, t.plain(1.1), colour=ColourTags(range=(None, "tv")[t.number % 2]))),
        *_every("contradictory_colour", 20, _clashing, doubtful=("hdr",)),
        *_every("contradictory_colour", 12, lambda t, p: t.save(p, t.plain(1.1), colour=AGREEING[t.number % 4]), expected=False,
                label="agree"),
        *_every("hdr", 20, lambda t, p: t.save(p, t.plain(1.1), colour=DEEP[t.number % 2])),
        *_every("odd_size", 20, _odd, also=("no_audio",), ending=".mkv",
                doubtful=("untagged_colour", "range_mismatch", "contradictory_colour")),
        *_every("very_short", 20, lambda t, p: t.save(p, t.plain(0.08 + t.number * 0.04), sound=speech(0.1 + t.number * 0.04, t.number)),
                doubtful=("silent_audio",)),
        *_every("very_long", 20, lambda t, p: write(
            p, (finish(t.scene()(i * 0.3), 0.0, t.rng) for i in range(20)), Fraction(1, 900 + 40 * t.number), sound=silent_black,
            times_s=[i * (900.0 + 40 * t.number) for i in range(20)]),
            also=("silent_audio",), ending=".mkv", doubtful=("variable_rate", "low_recorded_rate", "repeated_frames", "blended_frames")),
    ]


def every_clip() -> list[Clip]:
    """The whole set."""
    return [*blanks(), *bars(), *interlacing(), *cadences(), *ranges(), *sounds(), *recordings(), *headers()]
