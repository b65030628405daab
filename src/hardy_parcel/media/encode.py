"""Encoders that do what they are told, and say so when they did not."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction
from typing import Any, cast

import av

from ..core.errors import EncoderTrouble
from ..core.master.facts import ColourTags
from ..core.plan.encoder_settings import EncoderSettings
from .inspect import MATRICES, PRIMARIES, RANGES, TRANSFERS

os.environ.setdefault("SVT_LOG", "1")  # the AV1 library tells its settings on the error stream otherwise


def _code(table: dict[int, str], name: str | None, unspecified: int = 2) -> int:
    return next((code for code, known in table.items() if known == name), unspecified)


def set_up(context: av.VideoCodecContext, settings: EncoderSettings) -> None:
    """Give an encoder everything it is told, open it, and fail if it left an option unused."""
    context.width, context.height = settings.width, settings.height
    context.pix_fmt = settings.pixel_format
    context.framerate = settings.frame_rate
    context.time_base = 1 / settings.frame_rate
    context.sample_aspect_ratio = Fraction(1)
    context.thread_count = 0
    tag_colours(context, settings.colour)
    context.options = settings.all_options()
    try:
        context.open()
    except (av.FFmpegError, ValueError) as error:
        raise EncoderTrouble(
            f"The encoder {settings.library} refused its settings.", "Choose another rate or size."
        ) from error
    if settings.library == "libsvtav1":
        leave_realtime()
    if context.options:
        raise EncoderTrouble(f"The encoder {settings.library} did not take: {', '.join(sorted(context.options))}.")


def leave_realtime() -> None:
    """Give every thread of this process the usual share of the machine again.

    Where it may, as root may, the AV1 library makes all its threads and the one that opened it real-time ones, first in, first out,
    at the highest priority. They and every process that is started from there then keep all others from running.
    """
    if not hasattr(os, "sched_setscheduler"):
        return
    for thread in os.listdir("/proc/self/task"):
        with suppress(OSError):  # it has ended meanwhile
            if os.sched_getscheduler(int(thread)) != os.SCHED_OTHER:
                os.sched_setscheduler(int(thread), os.SCHED_OTHER, os.sched_param(0))


def tag_colours(context: av.VideoCodecContext, colour: ColourTags) -> None:
    """Write the colour tags; an absent one is written as unspecified."""
    context.color_primaries = _code(PRIMARIES, colour.primaries)
    context.color_trc = _code(TRANSFERS, colour.transfer)
    context.colorspace = _code(MATRICES, colour.matrix)
    context.color_range = _code(RANGES, colour.range, 0)


def encoder(settings: EncoderSettings) -> av.VideoCodecContext:
    """An opened encoder that belongs to no file."""
    context = cast(av.VideoCodecContext, av.CodecContext.create(settings.library, "w"))
    set_up(context, settings)
    return context


def add_video(container: av.container.OutputContainer, settings: EncoderSettings, *, entry: str | None = None) -> av.VideoStream:
    """An opened video stream of a file that is being written, under the name `entry` in it where one is given."""
    stream = cast(av.VideoStream, container.add_stream(settings.library, rate=settings.frame_rate))
    stream.time_base = 1 / settings.frame_rate
    if entry:
        stream.codec_context.codec_tag = entry
    set_up(stream.codec_context, settings)
    return stream


def encoded(
    stream: av.VideoStream | av.VideoCodecContext, pictures: Iterator[av.VideoFrame]
) -> Iterator[tuple[int, list[av.Packet[Any]]]]:
    """Packets as they come, with the number of pictures sent so far; what is still inside comes one by one at the end."""
    sent = 0
    for picture in pictures:
        picture.pict_type = 0
        sent += 1
        yield sent, stream.encode(picture)
    context = stream.codec_context if isinstance(stream, av.VideoStream) else stream
    for packet in context.encode_lazy(None):
        if isinstance(stream, av.VideoStream):
            packet.stream = stream
        yield sent, [packet]
