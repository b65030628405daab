"""What a platform's handling makes of an upload: its renditions with exact sizes and ceilings."""

from __future__ import annotations

from fractions import Fraction

from ..values import Model, Ratio, even, mbps_text
from .guidance import frame_rate_class
from .sheet import Destination, Handling, HandlingTier


class Rendition(Model):
    """One stream the platform will make: size in px, rate in 1/s, quality target under a ceiling in bit/s."""

    name: str
    width: int
    height: int
    short_side_px: int
    frame_rate: Ratio
    keep_every: int
    codec: str
    quality: int
    ceiling_bps: int
    buffer_bits: int
    keyframe_interval_frames: int

    @property
    def phrase(self) -> str:
        return f"{self.short_side_px}p {self.codec.upper()} up to {mbps_text(self.ceiling_bps)}"


def tier_for(handling: Handling, short_side_px: int) -> HandlingTier | None:
    """The tier that an upload of this short side unlocks; None when nothing is re-encoded."""
    for tier in handling.tiers:
        if tier.up_to_short_side_px is None or short_side_px <= tier.up_to_short_side_px:
            return tier
    return handling.tiers[-1] if handling.tiers else None


def rungs(handling: Handling) -> tuple[int, ...]:
    """The short sides in px at which anything is served, smallest first; empty where nothing is re-encoded."""
    return tuple(sorted({rule.short_side_px for tier in handling.tiers for rule in tier.renditions}))


def arriving_side(destination: Destination, *, width: int, height: int, frame_rate: Fraction) -> int | None:
    """The short side in px of the largest picture that a viewer can get of such an upload; None where it arrives as it is."""
    created = renditions_for(destination, width=width, height=height, frame_rate=frame_rate)
    return max((rendition.short_side_px for rendition in created), default=None)


MOST_STEP_UP = 1.6
"""Beyond this a frame is no more slightly larger."""


def step_up(handling: Handling, side_px: int) -> int | None:
    """The next short side in px, a little above this one, that is served larger or by a better ladder; None without any."""
    served = max((rung for rung in rungs(handling) if rung <= side_px), default=0)
    for rung in rungs(handling):
        better = rung > served or tier_for(handling, rung) is not tier_for(handling, side_px)
        if side_px + 1 < rung <= side_px * MOST_STEP_UP and better:
            return rung
    return None


def renditions_for(destination: Destination, *, width: int, height: int, frame_rate: Fraction) -> list[Rendition]:
    """The renditions made of an upload of this size (px) and rate (1/s), largest first; none if bit for bit.

    Nothing is enlarged: an upload smaller than the whole ladder is served at its own size under the lowest ceiling.
    """
    handling = destination.placement.handling
    side = min(width, height)
    tier = tier_for(handling, side)
    if tier is None:
        return []
    keep = 1
    while handling.frame_rate_cap and frame_rate / keep > handling.frame_rate_cap:
        keep += 1
    rate = frame_rate / keep
    rules = sorted(tier.renditions, key=lambda rule: rule.short_side_px, reverse=True)
    served = [rule for rule in rules if rule.short_side_px <= side] or rules[-1:]
    created = []
    for rule in served:
        short = min(rule.short_side_px, side)
        ceiling = rule.ceiling_bps(frame_rate_class(rate))
        created.append(
            Rendition(
                name=f"{short}p {rule.codec}",
                width=even(Fraction(width * short, side)),
                height=even(Fraction(height * short, side)),
                short_side_px=short,
                frame_rate=rate,
                keep_every=keep,
                codec=rule.codec,
                quality=rule.quality,
                ceiling_bps=ceiling,
                buffer_bits=round(ceiling * handling.buffer_s),
                keyframe_interval_frames=max(1, round(handling.keyframe_s * rate)),
            )
        )
    return created
