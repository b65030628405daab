"""A platform as it may be one day: its handling a step gentler, as ladders become when storage and lines do."""

from __future__ import annotations

from .sheet import Destination

QUALITY_STEP, CEILING_TIMES = 3, 1.5
"""One step: three of a codec's quality values, which is half as many bits again, under ceilings that let them pass."""


def kinder(destination: Destination) -> Destination:
    """The destination with every rendition a step gentler; one that encodes nothing again stays as it is."""
    place = destination.placement
    handling = place.handling.model_copy(
        update={
            "tiers": tuple(
                tier.model_copy(
                    update={
                        "renditions": tuple(
                            rule.model_copy(
                                update={
                                    "quality": max(0, rule.quality - QUALITY_STEP),
                                    "ceiling_standard_bps": round(rule.ceiling_standard_bps * CEILING_TIMES),
                                    "ceiling_high_bps": round(rule.ceiling_high_bps * CEILING_TIMES),
                                }
                            )
                            for rule in tier.renditions
                        )
                    }
                )
                for tier in place.handling.tiers
            )
        }
    )
    return destination.model_copy(update={"placement": place.model_copy(update={"handling": handling})})
