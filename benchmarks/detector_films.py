"""Made films with known trouble, and hard ones without: what the checks are measured on.

Every film is a small scene that is a function of time, so that fields, other rates and blends can be taken from it
exactly. Sizes, rates, noise, codecs and their quality vary with the number of the variant.
"""

from __future__ import annotations

import itertools
import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import partial
from pathlib import Path

import av
import numpy as np

from hardy_parcel.core.master.facts import ColourTags
from hardy_parcel.media.encode import tag_colours

SIZES = ((256, 144), (320, 240), (480, 270), (144, 256), (352, 288), (640, 360))
RATES = tuple(Fraction(n, d) for n, d in ((25, 1), (24000, 1001), (30, 1), (30000, 1001), (50, 1), (24, 1)))
NOISES = (0.0, 1.0, 2.5, 4.0)
QUALITIES = (18, 23, 27, 31)
HD = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
SOUND_RATE = 48000


@dataclass
class Scene:
    """Luma as a function of time in s: a textured ground that drifts, two things that move, and perhaps neither."""

    seed: int
    width: int
    height: int
    lively: float = 1.0
    level: float = 110.0
    contrast: float = 32.0
    ground: np.ndarray = field(init=False)

    def __post_init__(self) -> None:
        rng = np.random.default_rng(self.seed)
        h, w = self.height, self.width
        down, across = np.fft.fftfreq(h)[:, None] * h, np.fft.rfftfreq(w)[None] * w
        weight = (1 + np.hypot(down, across)) ** -rng.uniform(1.15, 1.7)
        weight[0, 0] = 0
        noise = np.fft.irfft2(np.fft.rfft2(rng.standard_normal((h, w))) * weight, (h, w))
        self.ground = np.fft.rfft2(noise / noise.std() * self.contrast + self.level)
        self._waves = np.fft.fftfreq(h)[:, None], np.fft.rfftfreq(w)[None]
        self._drift = rng.uniform(18, 60) * (1 if rng.random() < 0.7 else 0), rng.uniform(-20, 20)
        self._things = [
            (rng.uniform(0.12, 0.28) * min(h, w), rng.uniform(0, 1), rng.uniform(0, 1), rng.uniform(60, 170), rng.uniform(-70, 70),
             rng.uniform(30, 95) * rng.choice((-1, 1)))
            for _ in range(3)
        ]

    def __call__(self, t: float) -> np.ndarray:
        """Float luma at a time."""
        ky, kx = self._waves
        dx, dy = self._drift[0] * t * self.lively, self._drift[1] * t * self.lively
        picture = np.fft.irfft2(self.ground * np.exp(-2j * np.pi * (ky * dy + kx * dx)), (self.height, self.width))
        y, x = np.arange(self.height)[:, None], np.arange(self.width)[None]
        for size, x0, y0, vx, vy, lift in self._things:
            px = (x0 * self.width + vx * t * self.lively) % (self.width + size) - size / 2
            py = (y0 * self.height + vy * t * self.lively) % (self.height + size) - size / 2
            inside = np.clip(size / 2 - np.abs(x - px) + 0.5, 0, 1) * np.clip(size / 2 - np.abs(y - py) + 0.5, 0, 1)
            picture += lift * inside
        return picture


@dataclass(frozen=True, slots=True, kw_only=True)
class Clip:
    """A film to be made: its name, the codes that must be found on it, and how to write it."""

    name: str
    codes: frozenset[str]
    make: Callable[[Path], None]
    ending: str = ".mp4"
    doubtful: frozenset[str] = frozenset()


def finish(luma: np.ndarray, noise: float, rng: np.random.Generator) -> np.ndarray:
    """Noise, then legal code values."""
    noisy = luma + rng.normal(0, noise, luma.shape) if noise else luma
    return np.clip(np.round(noisy), 16, 235).astype(np.uint8)


def write(
    path: Path, pictures: Iterator[np.ndarray], rate: Fraction, *, sound: np.ndarray | None = None, codec: str = "libx264",
    quality: int = 23, colour: ColourTags = HD, shape: Fraction = Fraction(1), turned: int = 0,
    times_s: list[float] | None = None, interlaced: str = "", bps: int | None = None, sound_codec: str = "aac",
    pixel_format: str = "yuv420p", keyframes: int | None = None,
) -> None:
    """Encode luma pictures (uint8) with plain chroma, and sound (channels × samples)."""
    base = Fraction(1, 90000) if times_s else 1 / rate
    first = next(pictures, None)
    pictures = itertools.chain([first], pictures) if first is not None else iter(())
    if first is not None and first.shape[0] % 4:
        interlaced = ""  # the encoder wants pairs of lines in both fields
    with av.open(str(path), "w") as output:
        stream = audio = None
        options = {"preset": "veryfast", "crf": str(quality)} if codec == "libx264" and not bps else {}
        if codec in ("mpeg2video", "mpeg4"):
            options = {"qmin": str(max(2, quality // 6)), "qmax": str(max(3, quality // 5))}
        if bps:
            options = {"b": str(bps), **({"preset": "veryfast"} if codec == "libx264" else {})}
        if interlaced:
            options |= {"flags": "+ildct+ilme", **({"x264-params": f"{interlaced}=1"} if codec == "libx264" else {})}
        for number, luma in enumerate(pictures):
            if stream is None:
                stream = output.add_stream(codec, rate=rate, options=options)
                stream.width, stream.height, stream.pix_fmt = luma.shape[1], luma.shape[0], pixel_format
                stream.time_base = stream.codec_context.time_base = base
                stream.codec_context.sample_aspect_ratio = shape
                stream.codec_context.gop_size = keyframes or max(2, round(rate))
                tag_colours(stream.codec_context, colour)
                if turned:
                    stream.set_display_rotation(turned)
                if sound is not None:
                    audio = output.add_stream(sound_codec, rate=SOUND_RATE, layout="stereo" if sound.shape[0] == 2 else "mono")
                    if sound_codec == "aac":
                        audio.bit_rate = 192_000
            frame = _frame(luma, pixel_format)
            frame.pts = round(times_s[number] / base) if times_s else number
            frame.time_base = base
            output.mux(stream.encode(frame))
        if stream is not None:
            output.mux(stream.encode(None))
        if audio is not None:
            _write_sound(output, audio, sound)


def write_sound_only(path: Path, sound: np.ndarray) -> None:
    """A file without a picture."""
    with av.open(str(path), "w") as output:
        stream = output.add_stream("aac", rate=SOUND_RATE, layout="stereo")
        _write_sound(output, stream, sound)


def _write_sound(output, stream, sound: np.ndarray) -> None:
    form = "fltp" if stream.codec_context.name == "aac" else "s16"
    for at in range(0, sound.shape[1], 1024):
        part = np.ascontiguousarray(sound[:, at : at + 1024], np.float32)
        if form == "s16":
            part = np.ascontiguousarray((np.clip(part, -1, 1) * 32767).astype(np.int16).T.reshape(1, -1))
        block = av.AudioFrame.from_ndarray(part, format=form, layout="stereo" if sound.shape[0] == 2 else "mono")
        block.sample_rate, block.pts, block.time_base = SOUND_RATE, at, Fraction(1, SOUND_RATE)
        output.mux(stream.encode(block))
    output.mux(stream.encode(None))


def _frame(luma: np.ndarray, pixel_format: str) -> av.VideoFrame:
    if pixel_format != "yuv420p":
        grey = _frame(luma, "yuv420p")
        return grey.reformat(format=pixel_format)
    h, w = luma.shape
    pad_h, pad_w = h + h % 2, w + w % 2
    frame = av.VideoFrame(w, h, "yuv420p")
    for number, plane in enumerate(frame.planes):
        data = luma if number == 0 else np.full((pad_h // 2, pad_w // 2), 126 + 4 * number, np.uint8)
        rows = np.zeros((plane.buffer_size // plane.line_size, plane.line_size), np.uint8)
        rows[: data.shape[0], : data.shape[1]] = data
        plane.update(rows.tobytes())
    return frame


def speech(seconds: float, seed: int, *, lufs_like: float = 0.1, channels: int = 2) -> np.ndarray:
    """Noise in syllables: something that a meter takes for sound."""
    rng = np.random.default_rng(seed)
    n = round(seconds * SOUND_RATE)
    t = np.arange(n) / SOUND_RATE
    body = np.convolve(rng.standard_normal(n), np.ones(24) / 24, "same") * (0.55 + 0.45 * np.sin(2 * np.pi * 3.1 * t + seed))
    body = body / np.abs(body).max()
    return np.tile((body * lufs_like).astype(np.float32), (channels, 1))


@dataclass(frozen=True, slots=True)
class Taste:
    """What varies from one variant to the next."""

    number: int

    @property
    def rng(self) -> np.random.Generator:
        return np.random.default_rng(1000 + self.number)

    @property
    def size(self) -> tuple[int, int]:
        return SIZES[self.number % len(SIZES)]

    @property
    def rate(self) -> Fraction:
        return RATES[(self.number // 2) % len(RATES)]

    @property
    def noise(self) -> float:
        return NOISES[(self.number // 3) % len(NOISES)]

    @property
    def quality(self) -> int:
        return QUALITIES[(self.number // 5) % len(QUALITIES)]

    def scene(self, **more) -> Scene:
        return Scene(self.number * 17 + 3, *self.size, **more)

    def plain(self, seconds: float, scene: Scene | None = None, rate: Fraction | None = None) -> Iterator[np.ndarray]:
        """The scene, picture by picture."""
        scene, rate, rng = scene or self.scene(), rate or self.rate, self.rng
        for i in range(round(seconds * rate)):
            yield finish(scene(float(i / rate)), self.noise, rng)

    def save(self, path: Path, pictures: Iterator[np.ndarray], rate: Fraction | None = None, **more) -> None:
        more.setdefault("quality", self.quality)
        more.setdefault("sound", speech(1.0, self.number))
        write(path, pictures, rate or self.rate, **more)


def set_edit_free_tail(path: Path) -> None:
    """Rewrite the colr box's first code to another, so that container and stream disagree."""
    data = bytearray(path.read_bytes())
    place = data.find(b"colrnclx")
    if place > 0:
        data[place + 8 : place + 10] = struct.pack(">H", 9)
        path.write_bytes(bytes(data))


def _every(code: str, count: int, make: Callable[[Taste, Path], None], *, also: tuple[str, ...] = (), ending: str = ".mp4",
           expected: bool = True, doubtful: tuple[str, ...] = (), label: str = "") -> list[Clip]:
    codes = frozenset((*((code,) if expected else ()), *also))

    def unsure(number: int) -> frozenset[str]:
        # At the coarsest qualities these little films are poorly recorded indeed.
        return frozenset(doubtful) | ({"low_recorded_rate"} - codes if Taste(number).quality > 26 else set())

    return [
        Clip(name=f"{code}-{'yes' if expected else 'no'}-{label}{n:02d}", codes=codes, make=partial(_made, make, n), ending=ending,
             doubtful=unsure(n))
        for n in range(count)
    ]


def _made(make: Callable[[Taste, Path], None], number: int, path: Path) -> None:
    make(Taste(number), path)
