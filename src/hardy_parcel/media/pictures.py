"""Pictures out of a file at given times, and the treatment that brings them to a packed frame."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
from av.filter.context import FilterContext

from ..core.arrival.ticks import Tick
from ..core.errors import UnreadableMaster
from ..core.master.facts import VideoFacts
from ..core.plan.framing import BLUR_SHARE, Framing
from ..core.plan.plan import FieldOrder, Plan, VideoPlan
from ..core.values import even
from .inspect import picture_stream
from .trouble import open_film, reading

SEEK_BEYOND_S, SKIP_S = Fraction(3), Fraction(1, 4)
"""A time that lies further ahead is sought, and one that does by less where a keyframe lets so much be skipped."""
BACK_S = (Fraction(0), Fraction(1), Fraction(5))
"""By so much earlier it is sought where the keyframe that was found comes too late: files name when pictures are decoded, not shown."""
Picture = av.VideoFrame


def own_picture(path: Path, index: int, frame_rate: Fraction) -> Picture:
    """Picture `index` of one of our own files of constant `frame_rate` (1/s)."""
    return next(iter(pictures_at(path, [(index + Fraction(1, 4)) / frame_rate], start_s=Fraction(0))))


def pictures_at(
    path: Path, times_s: Iterable[Fraction], *, start_s: Fraction, fields: FieldOrder = FieldOrder.NONE, each_field: bool = False
) -> Iterator[av.VideoFrame]:
    """For each time (s from the first picture, rising or jumping) the last picture that starts at or before it.

    Seeks where the next time lies far ahead or behind. The last picture is repeated past the end, at most for one
    second; after that the file is too short and UnreadableMaster is raised. With `fields`, pictures are deinterlaced
    at their own rate, or with `each_field` at twice that.
    """
    with reading(path), open_film(path) as container:
        stream = picture_stream(container, path)
        stream.thread_type = "AUTO"
        reader = _Reader(container, stream, start_s, fields, each_field)
        for at in times_s:
            yield reader.picture(at, path)


class _Reader:
    """A decode position in one stream: the current picture and the next, each with its time in s."""

    def __init__(self, container: Any, stream: Any, start_s: Fraction, fields: FieldOrder, each_field: bool) -> None:
        self._container, self._stream, self._start = container, stream, start_s
        self._fields, self._each_field = fields, each_field
        self._restart()

    def _restart(self) -> None:
        self._frames = self._container.decode(self._stream)
        if self._fields is not FieldOrder.NONE:
            self._frames = deinterlaced(self._frames, self._fields, each_field=self._each_field)
        self._now: tuple[Fraction, av.VideoFrame] | None = None
        self._ahead: tuple[Fraction, av.VideoFrame] | None = None
        self._ended = False

    def _next(self) -> tuple[Fraction, av.VideoFrame] | None:
        frame = next(self._frames, None)
        if frame is None:
            return None
        stamp = frame.pts if frame.pts is not None else frame.dts or 0
        return stamp * (frame.time_base or self._stream.time_base) - self._start, frame

    def picture(self, at: Fraction, path: Path) -> av.VideoFrame:
        position = self._now[0] if self._now else Fraction(0)
        if (self._now and at < position) or self._far(at, position):
            self._seek(at)
        while not self._ended and (self._ahead is None or self._ahead[0] <= at):
            self._now = self._ahead or self._now
            self._ahead = self._next()
            self._ended = self._ahead is None
        shown = self._now or self._ahead
        if shown is None or (self._ended and at > shown[0] + 1):
            raise UnreadableMaster(
                f"{path.name} ends at {float(shown[0]) if shown else 0:.2f} s, before its stated length.",
                "Set the out point before that, or export it again.",
                code="truncated",
            )
        return shown[1]


    def _far(self, at: Fraction, position: Fraction) -> bool:
        """Whether seeking comes sooner to a time than decoding on."""
        if at <= position + SKIP_S:
            return False
        if at > position + SEEK_BEYOND_S:
            return True
        if self._fields is not FieldOrder.NONE:
            return False  # what was decoded before is needed
        known = self._stream.index_entries
        key = known.search_timestamp(int((at + self._start) / self._stream.time_base))
        return key >= 0 and bool(known[key].timestamp * self._stream.time_base - self._start > position + SKIP_S)

    def _seek(self, at: Fraction) -> None:
        """Go on from a keyframe that is shown no later than `at`."""
        for back in BACK_S:
            wanted = max(Fraction(0), at - back)
            self._container.seek(int((wanted + self._start) / self._stream.time_base), stream=self._stream, backward=True)
            self._restart()
            self._ahead = self._next()
            self._ended = self._ahead is None
            if not wanted or (self._ahead and self._ahead[0] <= at):
                return


def deinterlaced(frames: Iterator[av.VideoFrame], fields: FieldOrder, *, each_field: bool = False) -> Iterator[av.VideoFrame]:
    """One progressive picture for each interlaced one, or for each of its fields, by the library's motion-adaptive filter."""
    graph: av.filter.Graph | None = None
    source: Any = None
    sink: Any = None

    def ready() -> Iterator[av.VideoFrame]:
        while True:
            try:
                yield sink.pull()
            except (av.BlockingIOError, av.EOFError):
                return

    for frame in frames:
        if graph is None:
            graph, base = av.filter.Graph(), frame.time_base or Fraction(1, 1_000_000)
            source = graph.add(
                "buffer",
                f"video_size={frame.width}x{frame.height}:pix_fmt={frame.format.name}"
                f":time_base={base.numerator}/{base.denominator}:pixel_aspect=1/1",
            )
            mode = "send_field" if each_field else "send_frame"
            parity = "tff" if fields is FieldOrder.TOP_FIRST else "bff"
            sink = graph.add("buffersink")
            graph.link_nodes(source, graph.add("bwdif", f"mode={mode}:parity={parity}:deint=all"), sink)
            graph.configure()
        source.push(frame)
        yield from ready()
    if graph is not None:
        source.push(None)
        yield from ready()


class Treatment:
    """Brings master pictures to one form: turned upright, cropped, scaled once, converted, set between bars."""

    def __init__(self, video: VideoFacts, plan: VideoPlan, *, frame: bool) -> None:
        """With `frame` the result is the packed frame; without, the kept picture at the master's own size."""
        self._video, self._plan, self._frame = video, plan, frame
        self._shape: tuple[int, int, str] | None = None
        self._untouched = False
        self._source: Any = None
        self._sink: Any = None

    def __call__(self, picture: av.VideoFrame, index: int) -> av.VideoFrame:
        """The treated picture with `index` as its time stamp in units of one packed picture."""
        shape = (picture.width, picture.height, picture.format.name)
        if shape != self._shape:
            self._build(*shape)
        done = picture
        if not self._untouched:
            picture.pts = index
            picture.time_base = 1 / self._plan.frame_rate.value
            self._source.push(picture)
            done = self._sink.pull()
        done.pts = index
        done.time_base = 1 / self._plan.frame_rate.value
        return done

    @property
    def _recoloured(self) -> bool:
        """Whether primaries or curve are converted."""
        return (self._plan.source_primaries, self._plan.source_transfer) != ("bt709", "bt709")

    def _wanted_size(self) -> tuple[int, int]:
        """Size in px of the picture that is handed on, without bars."""
        framing = self._plan.framing.value
        rect = framing.picture if self._frame else framing.crop
        return rect.width, rect.height

    def _build(self, width: int, height: int, pixel_format: str) -> None:
        self._shape = (width, height, pixel_format)
        framing = self._plan.framing.value
        crop, picture = framing.crop, framing.picture
        wanted = self._plan.pixel_format.value
        self._untouched = (
            (width, height, pixel_format) == (crop.width, crop.height, wanted) == (*self._wanted_size(), wanted)
            and not framing.bars and self._video.rotation_deg == 0 and self._video.sample_aspect_ratio == 1
            and (_matrix(self._plan.source_matrix), self._plan.source_range) == ("bt709", "tv")
            and not self._recoloured and not self._plan.sharpen.value
        )
        if self._untouched:
            return
        steps: list[tuple[str, str]] = []
        turn = {90: ["clock"], 180: ["clock", "clock"], 270: ["cclock"]}.get(self._video.rotation_deg, [])
        steps += [("transpose", direction) for direction in turn]
        across = self._video.coded_width / (
            self._video.display_height if self._video.rotation_deg % 180 == 90 else self._video.display_width
        )
        upright_x, upright_y = (1.0, across) if self._video.rotation_deg % 180 == 90 else (across, 1.0)
        steps.append((
            "crop",
            f"w={round(crop.width * upright_x)}:h={round(crop.height * upright_y)}"
            f":x={round(crop.x * upright_x)}:y={round(crop.y * upright_y)}",
        ))
        size = self._wanted_size()
        steps.append((
            "scale",
            f"w={size[0]}:h={size[1]}:flags={self._plan.scaler.value}+accurate_rnd+full_chroma_int"
            f":in_color_matrix={_matrix(self._plan.source_matrix)}:out_color_matrix=bt709"
            f":in_range={self._plan.source_range}:out_range=tv",
        ))
        if self._recoloured:  # in ten bits and without chroma subsampling, so that rounding shows nowhere
            steps.append(("format", "pix_fmts=yuv444p10le"))
            steps.append((
                "colorspace",
                f"ispace=bt709:iprimaries={self._plan.source_primaries}:itrc={self._plan.source_transfer}:irange=tv"
                ":space=bt709:primaries=bt709:trc=bt709:range=tv:format=yuv444p10",
            ))
            steps.append(("scale", "flags=bicubic+accurate_rnd+full_chroma_int"))
        steps.append(("format", f"pix_fmts={wanted}"))
        if self._frame and self._plan.sharpen.value:
            steps.append(("unsharp", f"luma_msize_x=5:luma_msize_y=5:luma_amount={self._plan.sharpen.value:g}:chroma_amount=0"))
        if self._frame and framing.bars and not framing.blurred:
            steps.append(("pad", f"w={framing.width}:h={framing.height}:x={picture.x}:y={picture.y}:color=black"))
        rate = self._plan.frame_rate.value
        graph = av.filter.Graph()
        self._source = add_source(graph, width=width, height=height, pixel_format=pixel_format, frame_rate=rate)
        self._sink = graph.add("buffersink")
        last = _linked(graph, self._source, steps)
        if self._frame and framing.blurred:
            last = _over_a_blurred_copy(graph, last, framing, wanted)
        graph.link_nodes(last, graph.add("setsar", "sar=1"), self._sink)
        graph.configure()
        self._graph = graph


BLUR_SCALE = 8
"""The copy is blurred at an eighth of its size: nothing finer survives the blur, and it is a sixty-fourth of the pixels."""


def _linked(graph: av.filter.Graph, first: FilterContext, steps: list[tuple[str, str]]) -> FilterContext:
    """The last of a chain of filters behind `first`."""
    for name, args in steps:
        added = graph.add(name, args)
        first.link_to(added)
        first = added
    return first


def _over_a_blurred_copy(graph: av.filter.Graph, picture: FilterContext, framing: Framing, pixel_format: str) -> FilterContext:
    """The picture set into a frame that an enlarged, blurred copy of it fills."""
    inner, shape = framing.picture, Fraction(framing.width, framing.height)
    width = min(Fraction(inner.width), inner.height * shape)
    small_width, small_height = even(framing.width / BLUR_SCALE), even(framing.height / BLUR_SCALE)
    sigma = BLUR_SHARE * min(small_width, small_height)
    split = graph.add("split", "2")
    picture.link_to(split)
    copy = _linked(graph, _second_output(graph, split), [
        ("crop", f"w={even(width)}:h={even(width / shape)}"),
        ("scale", f"w={small_width}:h={small_height}:flags=area+accurate_rnd"),
        ("gblur", f"sigma={sigma:.3f}:steps=3"),
        ("scale", f"w={framing.width}:h={framing.height}:flags=bicubic+accurate_rnd"),
        ("format", f"pix_fmts={pixel_format}"),
    ])
    over = graph.add("overlay", f"x={inner.x}:y={inner.y}:format={'yuv422' if '422' in pixel_format else 'yuv420'}:shortest=1")
    copy.link_to(over, 0, 0)
    split.link_to(over, 0, 1)
    return over


def _second_output(graph: av.filter.Graph, split: FilterContext) -> FilterContext:
    """The second output of a splitter, as a filter of its own to go on from."""
    onward = graph.add("null")
    split.link_to(onward, 1, 0)
    return onward


def add_source(graph: av.filter.Graph, *, width: int, height: int, pixel_format: str, frame_rate: Fraction) -> FilterContext:
    """A filter-graph source with an exact rate, which filters that look back in time depend on."""
    return graph.add(
        "buffer",
        f"video_size={width}x{height}:pix_fmt={pixel_format}:time_base={frame_rate.denominator}/{frame_rate.numerator}"
        f":frame_rate={frame_rate.numerator}/{frame_rate.denominator}:pixel_aspect=1/1",
    )


def _matrix(name: str) -> str:
    return {"bt470bg": "bt601", "smpte170m": "bt601", "bt2020nc": "bt2020", "bt2020c": "bt2020"}.get(
        name, name if name in ("bt709", "fcc", "smpte240m") else "bt709"
    )


def treated(path: Path, video: VideoFacts, plan: Plan, wanted: Iterable[Tick], *, frame: bool = True) -> Iterator[av.VideoFrame]:
    """Treated pictures for `wanted`, in order; time stamps count from 0."""
    treatment = Treatment(video, plan.picture, frame=frame)
    times = (tick.master_s for tick in wanted)
    fields, each = plan.picture.deinterlace.value, plan.picture.field_rate
    for count, picture in enumerate(pictures_at(path, times, start_s=video.start_s, fields=fields, each_field=each)):
        yield treatment(picture, count)
