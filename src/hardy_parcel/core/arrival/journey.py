"""The way of a parcel's picture from the master to every viewer, and the keys of what is measured along it.

A key names all that a measurement depends on and nothing else: not a destination's name, not a version of a sheet that changes
no pixel. What two parcels share is measured once.
"""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from ..plan.encoder_settings import packing_settings
from ..plan.plan import Plan
from ..sheets.ladder import Rendition, renditions_for
from ..sheets.sheet import Destination
from ..trade.codecs import BASE_CODEC, PROBED_QUALITIES
from ..trade.rate_control import RateControl
from .screens import Raster, Screen, ViewerLine, picture_raster, rendition_for
from .windows import PROBE_PICTURES, QUICK_PICTURES

SHORTEST_SEGMENT_S = Fraction(1)
PROBE_PIXELS = 1920 * 1080 * 1.02
MEASURES, HANDLING_PROBES = "4", "2"
"""Raised whenever what is measured, or how, has changed: older measurements are then not found."""


def digest(*parts: object) -> str:
    """A short name for so many parts."""
    return hashlib.sha256("|".join(map(str, parts)).encode()).hexdigest()[:20]


@dataclass(frozen=True)
class Journey:
    """A plan with a picture that is encoded, and where it goes.

    A film may stand in for one so many times larger: screens are then `smaller` and reels as short as for that one. With `quick` probes
    are made of as few pictures as tell anything, for a first figure.
    """

    plan: Plan
    destination: Destination
    smaller: int = 1
    quick: bool = False

    @cached_property
    def quickly(self) -> Journey:
        """The same way with quick probes."""
        return replace(self, quick=True)

    @property
    def rate(self) -> Fraction:
        return self.plan.picture.frame_rate.value

    @property
    def frame_size(self) -> tuple[int, int]:
        framing = self.plan.picture.framing.value
        return framing.width, framing.height

    @cached_property
    def renditions(self) -> tuple[Rendition, ...]:
        """Every rendition the platform makes of this upload, largest first; none where it goes bit for bit."""
        width, height = self.frame_size
        return tuple(renditions_for(self.destination, width=width, height=height, frame_rate=self.rate))

    @cached_property
    def renditions_served(self) -> tuple[Rendition, ...]:
        """Those that some screen on some line gets."""
        names = {self.served(screen, line) for screen in Screen for line in ViewerLine}
        return tuple(rendition for rendition in self.renditions if rendition.name in names)

    @cached_property
    def _rasters(self) -> dict[Screen, Raster]:
        return {
            screen: picture_raster(screen, self.plan.picture.framing.value, smaller=self.smaller) for screen in Screen
        }

    def rasters(self) -> dict[Screen, Raster]:
        """The comparison raster of every screen."""
        return self._rasters

    @cached_property
    def _served(self) -> dict[tuple[Screen, ViewerLine], str | None]:
        made = list(self.renditions)
        return {
            (screen, line): rendition_for(screen, line, made).name if made else None
            for screen in Screen
            for line in ViewerLine
        }

    def served(self, screen: Screen, line: ViewerLine) -> str | None:
        """Name of the rendition that a viewer gets; None where nothing is re-encoded."""
        return self._served[screen, line]

    def screens_of(self, rendition: str) -> list[Screen]:
        """Screens on which some viewer gets this rendition."""
        return [screen for screen in Screen if any(self.served(screen, line) == rendition for line in ViewerLine)]

    @property
    def segment_s(self) -> Fraction:
        """Length of a reel's segments: a keyframe interval, and a second at least for a codec of keyframes alone."""
        segment = Fraction(self.plan.picture.keyframe_interval_frames.value or 1) / self.rate
        return segment if segment >= SHORTEST_SEGMENT_S else math.ceil(SHORTEST_SEGMENT_S * self.rate) / self.rate

    @cached_property
    def reel_key(self) -> str:
        """Which moments stand for the excerpt: the content, the excerpt, and how much of it a reel may have."""
        plan, video = self.plan, self.plan.picture
        return digest(
            MEASURES,
            plan.master_content_id,
            plan.excerpt.in_s,
            plan.excerpt.out_s,
            self.rate,
            video.keep_every,
            video.field_rate,
            self.segment_s,
            math.prod(self.frame_size),
            self.smaller,
        )

    @property
    def probe_segment_s(self) -> Fraction:
        """Length of a probe reel's windows: about a second, or half of one at high rates, of frames above 1080p, and of quick probes."""
        large = math.prod(self.frame_size) * self.smaller**2 > PROBE_PIXELS
        pictures = QUICK_PICTURES if self.quick else PROBE_PICTURES
        return Fraction(pictures // 2 if large else pictures) / self.rate

    @property
    def _probe(self) -> tuple[object, ...]:
        """How probe reels are cut."""
        return ("probe", self.probe_segment_s, *(("quick",) if self.quick else ()))

    @cached_property
    def probe_reel_key(self) -> str:
        """Which moments test encodes are made of."""
        return digest(self.reel_key, *self._probe)

    @cached_property
    def probe_treated_key(self) -> str:
        """Their pictures as they go into an encoder."""
        return digest(self.treated_key, *self._probe)

    @cached_property
    def upload_probe_key(self) -> str:
        """Test encodes of these pictures, whatever the codec, the rate and the effort of the plan."""
        return digest(self.probe_treated_key, BASE_CODEC, PROBED_QUALITIES[BASE_CODEC])

    @cached_property
    def effort_key(self) -> str:
        """What the plan's codec and effort are worth against them."""
        video = self.plan.picture
        codec = video.codec.value
        return digest(
            self.upload_probe_key, codec, video.profile.value, video.effort.value, PROBED_QUALITIES.get(codec)
        )

    @cached_property
    def handling_probe_key(self) -> str:
        """The ladder, tried on a perfect upload and on a worse one."""
        return digest(self.upload_probe_key, self.ladder_key, HANDLING_PROBES)

    @cached_property
    def probes_key(self) -> str:
        """Everything that a forecast of this way is made from."""
        return digest(self.effort_key, self.handling_probe_key)

    @cached_property
    def treated_key(self) -> str:
        """The pictures that go into the encoder."""
        video = self.plan.picture
        return digest(
            self.reel_key,
            video.framing.value.model_dump_json(),
            video.colour.value.model_dump_json(),
            video.source_matrix,
            video.source_range,
            video.source_primaries,
            video.source_transfer,
            video.deinterlace.value,
            video.scaler.value,
            video.sharpen.value,
            video.pixel_format.value,
        )

    @cached_property
    def encode_key(self) -> str:
        """A test encode: the pictures and everything the encoder is told."""
        two = self.plan.picture.rate_control.value is RateControl.TWO_PASSES
        settings = packing_settings(self.plan, encode_pass=2 if two else 0, stats_path="" if two else None)
        return digest(
            self.treated_key, settings.library, sorted(settings.options.items()), sorted(settings.params.items())
        )

    @cached_property
    def ladder_key(self) -> str:
        """What the platform makes of any upload of this size and rate."""
        return digest(*(rendition.model_dump_json() for rendition in self.renditions))

    @cached_property
    def handled_key(self) -> str:
        """This upload through the ladder."""
        return digest(self.encode_key, self.ladder_key)

    @cached_property
    def perfect_key(self) -> str:
        """A perfect upload through the ladder."""
        return digest(self.treated_key, self.ladder_key, "perfect")

    @cached_property
    def curve_key(self) -> str:
        """Everything but the bit rate: plans with one key lie on one survival curve."""
        return digest(self.treated_key, self.ladder_key, *self._encoding)

    @cached_property
    def upload_curve_key(self) -> str:
        """Everything of an upload but its bit rate, whatever the sheet says that becomes of it."""
        return digest(self.treated_key, *self._encoding)

    @property
    def _encoding(self) -> tuple[object, ...]:
        """What the encoder is told, but for the bit rate."""
        video = self.plan.picture
        return (
            video.codec.value,
            video.rate_control.value,
            video.quality.value,
            video.keyframe_interval_frames.value,
            video.effort.value,
            *video.ceiling_shares(),
            *((video.ceiling_rule.peak_bps,) if video.ceiling_rule else ()),
        )
