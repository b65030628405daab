"""The command that shows a plan."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from ..core.parcel.cap_ways import alternatives
from ..core.plan.carrying import file_size
from ..core.plan.encoder_settings import encoder_words
from ..core.plan.naming import file_stem
from ..core.plan.packing_slip import packing_slip, plan_values
from ..core.plan.planning import make_plan
from ..core.values import mbps_text, seconds_text, size_text
from .base import asked_parcel, file_argument, json_option, main, plan_options, print_json


@main.command()
@file_argument
@plan_options
@json_option
def plan(file: Path, as_json: bool, **options: Any) -> None:
    """Show the plan of a parcel: every value with its because, and what to take care of."""
    asked = asked_parcel(file, options)
    made = asked.plan
    ours = make_plan(asked.facts, asked.destination, asked.choices.only_framing(), made.excerpt)
    size = file_size(made)
    ways = alternatives(asked.facts, asked.destination, asked.choices, made, made.excerpt)
    if as_json:
        without = plan_values(ours)
        print_json({
            "master": asked.facts.name,
            "destination": made.destination_id,
            "sheet_version": made.sheet_version,
            "excerpt": made.excerpt.model_dump(mode="json"),
            "file_name": f"{file_stem(asked.facts.name, made)}.{made.container.value}",
            "size": size.model_dump(mode="json"),
            "guidance": made.guidance.model_dump(mode="json") if made.guidance else None,
            "times_guidance": made.times_guidance,
            "plan": {key: value.model_dump(mode="json") for key, value in plan_values(made).items()},
            "instead_of": {
                key: without[key].model_dump(mode="json")
                for key, value in plan_values(made).items() if key in without and without[key].value != value.value
            },
            "encoder": encoder_words(made),
            "alternatives": [way.model_dump(mode="json") for way in ways],
            "stamps": [stamp.model_dump(mode="json") for stamp in made.stamps],
        })
        return
    click.echo(f"{asked.facts.name} → {made.destination_name}, about {size_text(size.expected_bytes)}")
    for row in packing_slip(made, ours):
        instead = f" (we would have chosen {row.instead}: {row.instead_because})" if row.instead else ""
        click.echo(f"  {row.setting:14} {row.value:34} {row.because}{instead}")
    for stamp in made.stamps:
        click.echo(f"{stamp.outcome}: {stamp.matter}: {stamp.sentence}")
    for way in ways:
        click.echo(
            f"instead: {way.words}: {mbps_text(way.video_bitrate_bps)}, {way.share:.0%} of the least asked for, "
            f"{size_text(way.size.worst_bytes)} at worst, {seconds_text(way.seconds)}"
        )
