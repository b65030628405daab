"""Text captions: read from a film or a caption file, and written inside a film or beside it."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
from av.subtitles.subtitle import AssSubtitle, SubtitleSet

from ..core.master.facts import CaptionTrack
from ..core.plan.choices import Captions
from ..core.plan.cues import Cue, cut, one_at_a_time
from ..core.plan.plan import Plan
from ..core.trade.containers import CAPTIONS_IN
from .trouble import open_film, reading, writing

CueTracks = tuple[tuple[Cue, ...], ...]
"""The cues of several tracks."""
CLOCK = Fraction(1, 1000)
EVENT_FIELDS = 8
"""Fields before the text of a decoded caption: order, layer, style, name, three margins, effect."""
FILE_CODECS = {Captions.SRT: ("srt", "subrip"), Captions.WEBVTT: ("webvtt", "webvtt")}


def read_captions(path: Path, *, start_s: Fraction = Fraction(0), kind: Captions | None = None) -> CueTracks:
    """The cues of every text track of a film, or of a caption file of `kind`; times from `start_s` of the file's clock.

    Raises UnreadableMaster where the file cannot be read.
    """
    with reading(path), (av.open(str(path), format=FILE_CODECS[kind][0]) if kind else open_film(path)) as container:
        tracks = [track for track in container.streams.subtitles if track.codec_context.codec.text_sub]
        found: dict[int, list[Cue]] = {track.index: [] for track in tracks}
        for packet in container.demux(tracks) if tracks else ():
            if packet.pts is None or not packet.size:
                continue
            begins = packet.pts * packet.time_base - start_s
            ends = begins + (packet.duration or 0) * packet.time_base
            for part in cast(Any, packet.stream).decode(packet):
                text = part.ass.decode("utf-8", "replace").split(",", EVENT_FIELDS)[-1].strip() if isinstance(part, AssSubtitle) else ""
                if text and ends > begins:
                    found[packet.stream.index].append(Cue(start_s=max(begins, Fraction(0)), end_s=ends, text=text))
    return tuple(tuple(cues) for cues in found.values())


def planned_captions(master: Path, plan: Plan, *, start_s: Fraction) -> CueTracks:
    """What goes along, by track, cut to the excerpt; `start_s` is the first picture's time by the master's clock."""
    if plan.captions.value in (None, Captions.LEFT_OUT):
        return ()
    tracks = tuple(cut(cues, plan.excerpt) for cues in read_captions(master, start_s=start_s))
    timed = plan.captions.value is Captions.INSIDE and CAPTIONS_IN.get(plan.container.value) == "mov_text"
    return tuple(one_at_a_time(cues) for cues in tracks) if timed else tracks


def add_captions(container: av.container.OutputContainer, plan: Plan, tracks: CueTracks) -> None:
    """Write captions into a film whose other streams have all been added."""
    if plan.captions.value is not Captions.INSIDE or not tracks:
        return
    streams = [_text_stream(container, CAPTIONS_IN[plan.container.value], track) for track in plan.caption_tracks]
    for stream, cues in zip(streams, tracks, strict=True):
        _write(container, stream, cues, webvtt=plan.container.value == "webm")


def write_captions(target: Path, kind: Captions, cues: tuple[Cue, ...]) -> None:
    """Write one track as a file of its own."""
    form, codec = FILE_CODECS[kind]
    with writing(target), av.open(str(target), "w", format=form) as container:
        stream = _text_stream(container, codec, None)
        _write(container, stream, cues, webvtt=kind is Captions.WEBVTT)


def _text_stream(container: av.container.OutputContainer, codec: str, track: CaptionTrack | None) -> Any:
    stream: Any = container.add_stream(cast(Any, codec))
    usual = cast(Any, av.CodecContext.create("subrip", "r"))
    usual.open()
    stream.codec_context.subtitle_header = usual.subtitle_header  # the text encoders ask for a style sheet; none of it reaches a file
    stream.time_base = stream.codec_context.time_base = CLOCK
    if track and track.language:
        stream.metadata["language"] = track.language
    return stream


def _write(container: av.container.OutputContainer, stream: Any, cues: tuple[Cue, ...], *, webvtt: bool) -> None:
    for cue in cues:
        text = cue.text.replace("&", "&amp;").replace("<", "&lt;") if webvtt else cue.text
        start, length = round(cue.start_s / CLOCK), max(1, round((cue.end_s - cue.start_s) / CLOCK))
        event = f"0,0,Default,,0,0,0,,{text}".encode()
        packet = stream.codec_context.encode_subtitle(SubtitleSet.create(text=event, start=0, end=length, pts=start))
        packet.stream, packet.time_base = stream, CLOCK
        packet.pts = packet.dts = start
        packet.duration = length
        container.mux(packet)
