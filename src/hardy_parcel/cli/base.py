"""What every command shares: errors to exit codes, options that shape a plan, progress, JSON.

Exit codes: 0 done, 2 bad input with one clear sentence on standard error, 1 our fault.
"""

from __future__ import annotations

import json
import logging
import re
import signal
import sys
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any

import click
from pydantic import TypeAdapter, ValidationError

from .. import __version__
from ..core.errors import BadInput, HardyParcelError, NotFound, UnreadableMaster
from ..core.faults import faults_sentence
from ..core.master.checks.sound_levels import SoundLevels, heard_in
from ..core.master.checks.stamping import CheckStamp, Remedy, mended
from ..core.master.facts import ColourReading, Excerpt, FileFacts, Focus, FramingMode, MasterFacts
from ..core.parcel.recipes import Recipe, choices_for
from ..core.plan.choice_table import TABLE
from ..core.plan.choices import Captions, Choices, Method
from ..core.plan.framing import MOST_ZOOM
from ..core.plan.plan import Plan
from ..core.plan.planning import make_plan, whole_excerpt
from ..core.sheets.sheet import Destination, Sheet, destinations
from ..core.sheets.sheet_documents import read_sheet
from ..core.trade.rate_control import Effort, RateControl
from ..core.values import Ratio
from ..docks.catalogue import destination, destinations_now, guidance_span
from ..processes.messages import OnTheWay, ProgressMade
from ..processes.scratch import Scratch, users_root
from ..store import kept_recipes
from ..store.database import Database
from ..store.places import Places
from ..work.reading import read_heard, read_looked_through


class Commands(click.Group):
    """Maps our errors to exit codes and one sentence; a stack trace is never shown."""

    def main(self, *args: Any, **kwargs: Any) -> Any:
        try:
            return super().main(*args, **kwargs)
        except BadInput as error:
            click.echo(str(error), err=True)
            sys.exit(2)
        except HardyParcelError as error:
            click.echo(str(error), err=True)
            sys.exit(1)
        except Exception as error:
            click.echo(f"Something went wrong on our side ({type(error).__name__}). Nothing was changed.", err=True)
            sys.exit(1)

    def invoke(self, ctx: click.Context) -> Any:
        """Tells of an interrupt here, since the group's own `main` would only say that it aborted."""
        try:
            return super().invoke(ctx)
        except KeyboardInterrupt:
            click.echo("Stopped; nothing half-written was kept.", err=True)
            ctx.exit(1)


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="hardy-parcel")
@click.pass_context
def main(context: click.Context) -> None:
    """Pack a finished edit so that it survives each platform's own re-encoding."""
    if context.invoked_subcommand not in WITHOUT_SCRATCH:
        context.obj = Scratch(users_root(), context.invoked_subcommand or "command").use_by_default()
        context.call_on_close(context.obj.close)
    # one sentence is said; what a child complains of is not for the terminal
    logging.getLogger().addHandler(logging.NullHandler())


WITHOUT_SCRATCH = ("serve", "completion", "queue", "sheets", "recipes", "backup", "restore")
"""Commands that make nothing for a while, or have a place of their own for it."""
DATA = Path("parcel-data")
file_argument = click.argument("file", type=click.Path(path_type=Path))
data_option = click.option(
    "--data",
    type=click.Path(path_type=Path),
    default=DATA,
    show_default=True,
    help="Data folder with your own rule sheets.",
)
json_option = click.option("--json", "as_json", is_flag=True, help="Print JSON.")


def plan_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Where to and how, the same for every command that makes a plan."""
    to = click.option(
        "--to",
        "destination_id",
        required=True,
        metavar="DEST",
        shell_complete=complete_destinations,
        help="A destination such as orrery-wide; see `sheets list`.",
    )
    return to(how_options(command))


def complete_destinations(context: click.Context, parameter: click.Parameter, begun: str) -> list[str]:
    """Destinations that a shell offers, those of the default data folder's own sheets among them."""
    return sorted(item for item in destinations_now(kept(context.params.get("data") or DATA)) if item.startswith(begun))


def _complete_recipes(context: click.Context, parameter: click.Parameter, begun: str) -> list[str]:
    database = kept(context.params.get("data") or DATA)
    return (
        [item.recipe.name for item in kept_recipes.every(database) if item.recipe.name.startswith(begun)]
        if database
        else []
    )


def how_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """How a plan is made, whatever it is for."""
    for option in (
        click.option(
            "--sheet", "sheet_file", type=click.Path(path_type=Path), help="A rule sheet (JSON) that DEST may be of."
        ),
        data_option,
        click.option(
            "--set", "settings", multiple=True, metavar="KEY=VALUE", help="Choose a value yourself; may be repeated."
        ),
        click.option(
            "--shape",
            metavar="W:H",
            help="The frame's shape, such as 4:5 or 2.39:1; the destination's own when left out.",
        ),
        click.option(
            "--framing",
            type=click.Choice([m.value for m in FramingMode]),
            help="Bars, a crop, or a blurred copy behind.",
        ),
        click.option(
            "--focus",
            metavar="X,Y",
            help="What a crop must keep, in shares of the picture from its upper left: 0.5,0.5.",
        ),
        click.option("--zoom", type=click.FloatRange(1, MOST_ZOOM), help="How much closer than the crop needs."),
        click.option(
            "--max-size", metavar="BYTES", help="A size that the file must not pass, such as 25000000 or 25MB."
        ),
        click.option("--no-sound", is_flag=True, help="Leave the sound out."),
        click.option("--no-picture", is_flag=True, help="Leave the picture out."),
        click.option(
            "--recipe",
            metavar="NAME",
            shell_complete=_complete_recipes,
            help="A saved recipe's choices for this destination; other options win over it.",
        ),
        click.option("--effort", type=click.Choice([e.value for e in Effort]), help="How hard the encoder tries."),
        click.option(
            "--mend",
            "mends",
            multiple=True,
            metavar="REMEDY",
            help="Mend what a check found: trim, remove-bars, deinterlace, keep-fields, constant-rate=25, turn-down, read=601-limited.",
        ),
        click.option("--in", "in_s", metavar="SECONDS", help="In point."),
        click.option("--out-point", "out_s", metavar="SECONDS", help="Out point."),
    ):
        command = option(command)
    return command


REMEDIES = {
    "trim": Remedy.TRIM,
    "remove-bars": Remedy.REMOVE_BARS,
    "deinterlace": Remedy.DEINTERLACE,
    "keep-fields": Remedy.DEINTERLACE,
    "constant-rate": Remedy.CONSTANT_RATE,
    "turn-down": Remedy.TURN_DOWN,
    "read": Remedy.READ_COLOUR,
}
AskedRemedy = tuple[str, Fraction | None, ColourReading | None]
"""Its key, and the frame rate or the reading that goes with it."""


def _remedies(texts: tuple[str, ...]) -> list[AskedRemedy]:
    """The asked remedies; raises BadInput for one that is none."""
    result: list[AskedRemedy] = []
    for text in texts:
        key, mark, value = text.partition("=")
        if key not in REMEDIES or bool(mark) != (key in ("constant-rate", "read")):
            keys = ", ".join(f"{item}=…" if item in ("constant-rate", "read") else item for item in REMEDIES)
            raise BadInput(f"'{text}' is no remedy.", f"Choose of: {keys}.", code="bad_setting")
        rate, reading = None, None
        try:
            if key == "read":
                reading = ColourReading(value.replace("-", " "))
            elif mark:
                rate = TypeAdapter(Ratio).validate_python(value)
        except ValueError as error:
            takes = (
                "601-limited, 601-full, 709-limited or 709-full"
                if key == "read"
                else "a frame rate such as 25 or 30000/1001"
            )
            raise BadInput(f"'{value}' cannot be taken here.", f"Give {takes}.", code="bad_setting") from error
        result.append((key, rate, reading))
    return result


def _mended(
    facts: MasterFacts, stamps: tuple[CheckStamp, ...], mends: list[AskedRemedy]
) -> tuple[MasterFacts, Excerpt | None]:
    """The master with what is to be mended, and the excerpt that trimming leaves."""
    trimmed: Excerpt | None = None
    for key, rate, reading in mends:
        offer = next((stamp for stamp in stamps if stamp.remedy is REMEDIES[key]), None)
        if offer is None:
            raise BadInput(
                f"The checks found nothing in {facts.name} to mend by {key}.", "Leave it out.", code="nothing_to_mend"
            )
        if key == "trim":
            trimmed = offer.excerpt
        mending = mended(facts.mending, offer, on=key != "keep-fields", rate=rate, reading=reading)
        facts = facts.model_copy(update={"mending": mending})
    return facts, trimmed


def _excerpt(facts: MasterFacts, in_s: str | None, out_s: str | None, trimmed: Excerpt | None = None) -> Excerpt:
    whole = trimmed or whole_excerpt(facts)
    try:
        return Excerpt(in_s=in_s or whole.in_s, out_s=out_s or whole.out_s)
    except ValueError as error:
        raise BadInput("In and out points are seconds, such as 2.5.", "Correct them.") from error


def _choices(options: dict[str, Any], kbps: int | None = None) -> Choices:
    values: dict[str, Any] = {}
    for name in ("shape", "framing", "zoom"):
        if options[name] is not None:
            values[name] = options[name]
    if options["focus"]:
        values["focus"] = _focus(options["focus"])
    if options["max_size"]:
        values["max_bytes"] = _bytes(options["max_size"])
    if options["no_sound"]:
        values["sound"] = False
    if options["no_picture"]:
        values["picture"] = False
    if kbps is not None:
        values["video_bitrate_bps"] = kbps * 1000
    if options["effort"]:
        values["effort"] = options["effort"]
    for setting in options["settings"]:
        key, mark, value = setting.partition("=")
        key = key.strip().replace("-", "_")
        if not mark or key not in TABLE:
            raise BadInput(f"'{setting}' is not KEY=VALUE.", f"Keys are: {', '.join(TABLE)}.", code="bad_setting")
        values[key] = _plain_value(key, value.strip())
    try:
        return Choices.model_validate(values)
    except ValidationError as error:
        faults = faults_sentence(
            error, name_of=lambda placement: str(placement[0]).replace("_", "-") if placement else ""
        )
        raise BadInput(f"These settings cannot be used: {faults}.", "Correct them.", code="bad_setting") from error


def _focus(text: str) -> Focus:
    try:
        x, y = (float(part) for part in text.split(","))
        return Focus(x=x, y=y)
    except ValueError as error:
        what = f"'{text}' is not a place in the picture."
        raise BadInput(what, "Give two shares from 0 to 1, such as 0.5,0.4.", code="bad_setting") from error


UNITS = {"": 1, "b": 1, "kb": 10**3, "mb": 10**6, "gb": 10**9, "kib": 2**10, "mib": 2**20, "gib": 2**30}


def _bytes(text: str) -> int:
    result = re.fullmatch(r"\s*([\d_]+(?:\.\d+)?)\s*([kmg]?i?b)?\s*", text, re.IGNORECASE)
    if not result or (size := round(float(result[1].replace("_", "")) * UNITS[(result[2] or "").lower()])) < 1_000:
        raise BadInput(f"'{text}' is not a size.", "Give bytes, or a number with kB, MB or GB.", code="bad_setting")
    return size


def _plain_value(key: str, value: str) -> Any:
    """A typed value; words of several parts may be joined by any mark, such as two-passes."""
    if value.lower() in ("", "none", "auto"):
        return None
    if value.lower() in ("yes", "no", "true", "false", "on", "off"):
        return value.lower() in ("yes", "true", "on")
    words = {
        "rate_control": RateControl,
        "effort": Effort,
        "method": Method,
        "framing": FramingMode,
        "captions": Captions,
    }.get(key)
    same = "".join(c for c in value.lower() if c.isalnum())
    return next((item for item in words or () if "".join(c for c in item if c.isalnum()) == same), value)


def kept(data: Path) -> Database | None:
    """What is kept in a data folder; None when nothing was ever kept there."""
    places = Places(data=data.expanduser().resolve(), allowed=())
    if not places.database.is_file():
        return None
    database = Database(places.database)
    kept_recipes.renew(database, guidance_span(database))
    return database


def sheet_file(path: Path) -> Sheet:
    """A rule sheet from a file, or from standard input for `-`; raises BadInput with the path of every error."""
    return read_sheet(read_text(path), name="from standard input" if str(path) == "-" else path.name)


def read_text(path: Path) -> str:
    """The text of a file, or of standard input for `-`."""
    try:
        if str(path) == "-":
            return sys.stdin.read()
        return path.read_text(encoding="utf-8-sig")
    except FileNotFoundError as error:
        raise NotFound(f"There is no file {path.name}.", "Check the name and the folder.") from error
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"{path.name} cannot be read as text.", "Choose another file.", code="not_text") from error


def asked_destination(options: dict[str, Any]) -> Destination:
    """The destination that the options name. Raises NotFound."""
    if options["sheet_file"] is not None:
        given = destinations([sheet_file(options["sheet_file"])])
        if options["destination_id"] in given:
            return given[options["destination_id"]]
    return destination(options["destination_id"], kept(options["data"]))


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What a command is to work on: a master and the plan that its options lead to."""

    path: Path
    facts: MasterFacts
    destination: Destination
    choices: Choices
    plan: Plan


@lru_cache(maxsize=1)
def _read_once(path: Path, modified_ns: int) -> tuple[FileFacts, SoundLevels | None]:
    """What a master is and how it sounds, read once for all its destinations."""
    return read_heard(path)


def asked_parcel(file: Path, options: dict[str, Any], kbps: int | None = None) -> Asked:
    """The parcel that the options ask for.

    A recipe's choices stand unless an option says otherwise; what it changes for this master is told on standard error.
    """
    placement, choices = asked_destination(options), _choices(options, kbps)
    recipe = asked_recipe(options["recipe"], options["data"]) if options["recipe"] else None
    mends = _remedies(options["mends"])
    if mends:
        read, stamps, levels = read_looked_through(file)
        result, trimmed = _mended(with_picture(read), stamps, mends)
    else:
        heard, levels = _read_once(file, file.stat().st_mtime_ns if file.is_file() else 0)
        result, trimmed = with_picture(heard), None
    excerpt = _excerpt(result, options["in_s"], options["out_s"], trimmed)
    facts = heard_in(result, levels, excerpt)
    if recipe:
        choices = _by_recipe(recipe, facts, placement, excerpt, choices)
    plan = make_plan(facts, placement, choices, excerpt)
    return Asked(path=file, facts=facts, destination=placement, choices=choices, plan=plan)


def asked_recipe(name: str, data: Path) -> Recipe:
    """A kept recipe by its name; raises NotFound."""
    database = kept(data)
    if database is None:
        raise NotFound(f"There is no recipe '{name}'.", f"Nothing is kept in {data}; give its folder with --data.")
    return kept_recipes.named(database, name)


def _by_recipe(recipe: Recipe, facts: MasterFacts, placement: Destination, excerpt: Excerpt, typed: Choices) -> Choices:
    part = next((part for part in recipe.parts if part.destination_id == placement.id), None)
    if part is None:
        has = ", ".join(part.destination_id for part in recipe.parts)
        raise BadInput(
            f"The recipe “{recipe.name}” says nothing of {placement.id}.", f"It has: {has}.", code="not_in_recipe"
        )
    choices, left = choices_for(part.intent, facts, placement, excerpt)
    for change in left:
        click.echo(
            f"{recipe.name}: {change.setting} is {change.after} instead of {change.before}: {change.because}", err=True
        )
    return choices.model_copy(update={name: getattr(typed, name) for name in typed.model_fields_set})


def with_picture(facts: FileFacts) -> MasterFacts:
    if not isinstance(facts, MasterFacts):
        raise UnreadableMaster(f"{facts.name} has no picture.", "Choose a file with a film in it.", code="no_picture")
    return facts


class ProgressLine:
    """Progress on one line of standard error, only when a person can see it; whoever has one may be told to end, and clears up."""

    def __init__(self) -> None:
        self._shown = ""
        with suppress(ValueError):  # not in the main thread
            signal.signal(signal.SIGTERM, signal.default_int_handler)

    def say(self, doing: str, share: float) -> None:
        text = f"{doing}: {share:.0%}"
        if text != self._shown and sys.stderr.isatty():
            click.echo(f"\r\033[K{text}", nl=False, err=True)
            self._shown = text

    def hear(self, message: OnTheWay) -> None:
        """Show what a child says of its progress."""
        if isinstance(message, ProgressMade):
            self.say(message.progress.doing, message.progress.share)

    def end(self) -> None:
        if self._shown:
            click.echo("\r\033[K", nl=False, err=True)


def print_json(value: Any) -> None:
    click.echo(json.dumps(value, indent=2, ensure_ascii=False))
