"""What a child process is told, what it says on its way and what it gives back: one frozen model for each kind of work.

On the pipe each message is a line of JSON, told apart by `kind`.
"""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from ..core.arrival.docked import DockState, SentOver, Words
from ..core.arrival.journey import Journey
from ..core.arrival.judged import Judged
from ..core.arrival.learning import ReturnedFound
from ..core.arrival.looked import LookedFile, SufferingMap
from ..core.arrival.probe import EffortProbe, HandlingProbe, UploadProbe
from ..core.arrival.probing_time import ProbePart, lacking
from ..core.arrival.receiving import Received, Rendered
from ..core.arrival.rehearsal import HandledUpload, ScaledPicture, TrialEncode
from ..core.arrival.returned import PackedMeasure, ReturnedFile
from ..core.arrival.screens import Screen, ViewerLine
from ..core.arrival.windows import Reel
from ..core.errors import Problem
from ..core.master.checks.evidence import Difficulty, SoundSurvey, Survey
from ..core.master.checks.sound_levels import SoundLevels
from ..core.master.facts import FileFacts, MasterFacts
from ..core.parcel.drive import Drive
from ..core.parcel.handoff import HandoffFound, PackedFile
from ..core.parcel.receipt import Receipt
from ..core.plan.choices import Choices
from ..core.plan.plan import Plan, VideoPlan
from ..core.plan.planning import make_plan
from ..core.progress import JobProgress
from ..core.sheets.sheet import Destination
from ..core.trade.names import Codec
from ..core.values import Model, Ratio


class WholeLoudness(Model):
    """Integrated loudness (LUFS), range (LU) and true peak (dBTP) of a whole sound; None where it is silent."""

    integrated_lufs: float | None
    loudness_range_lu: float | None
    true_peak_dbtp: float | None


# What a child is told.


class InspectTask(Model):
    """Read a file's facts. With `look` its picture is checked too, with `scan` only whether it is interlaced."""

    kind: Literal["inspect"] = "inspect"
    path: Path
    sound_too: bool = False
    look: bool = False
    scan: bool = False


class StripTask(Model):
    """Make the poster strip of a master in `folder`."""

    kind: Literal["strip"] = "strip"
    path: Path
    facts: MasterFacts
    folder: Path


class CheckTask(Model):
    """Look through a master's picture."""

    kind: Literal["check"] = "check"
    path: Path
    facts: MasterFacts


class ListenTask(Model):
    """Listen to a file's sound."""

    kind: Literal["listen"] = "listen"
    path: Path
    facts: MasterFacts | FileFacts


class BenchmarkTask(Model):
    """Measure how fast this machine encodes, on so many pictures (of such a size in px) of the program's own."""

    kind: Literal["benchmark"] = "benchmark"
    width: int = 1280
    height: int = 720
    pictures: int = 50


class FilmTask(Model):
    """A master and how it is planned, for work on one parcel."""

    path: Path
    facts: MasterFacts
    plan: Plan
    destination: Destination

    @property
    def journey(self) -> Journey:
        return Journey(self.plan, self.destination)


class RehearseTask(FilmTask):
    """Rehearse at upload rates in bit/s, on every picture with `whole`.

    Under `folder` the reel, the uploads and the renditions are kept by their keys; what is known already is not measured again.
    """

    kind: Literal["rehearse"] = "rehearse"
    choices: Choices = Choices()
    rates: tuple[int, ...]
    whole: bool = False
    all_renditions: bool = False
    folder: Path
    difficulty: tuple[Difficulty, ...] = ()
    reel: Reel | None = None
    scaled: ScaledPicture | None = None
    perfect_known: bool = False
    encodes: tuple[TrialEncode, ...] = ()
    handled_keys: tuple[str, ...] = ()

    def plan_at(self, rate: int) -> Plan:
        """The plan at another bit rate. A reel passes no cap, so a cap neither lowers nor holds what is only rehearsed."""
        free = self.choices.at_rate(rate, self.plan.picture.target_bps.value).model_copy(update={"max_bytes": None})
        plan = make_plan(self.facts, self.destination, free, self.plan.excerpt)
        return plan.model_copy(update={"stamps": tuple(stamp for stamp in plan.stamps if stamp.code != "over_cap")})


class ProbeTask(FilmTask):
    """Try a few moments in the plan's codec and through its ladder, with `quick` as few as tell anything. Files are kept under `folder`;
    what is known is not made again."""

    kind: Literal["probe"] = "probe"
    quick: bool = False
    folder: Path
    difficulty: tuple[Difficulty, ...] = ()
    reel: Reel | None = None
    scaled: ScaledPicture | None = None
    upload: UploadProbe | None = None
    effort: EffortProbe | None = None
    handling: HandlingProbe | None = None

    @property
    def journey(self) -> Journey:
        return Journey(self.plan, self.destination, quick=self.quick)

    @property
    def lacking(self) -> set[ProbePart]:
        """What is not known yet and will be made."""
        return lacking(self.journey, scaled=self.scaled, upload=self.upload, effort=self.effort, handling=self.handling)


class PackTask(FilmTask):
    """Pack a parcel into `folder`, which lies on `drive`, under `file_name`.

    `job_id` names what is not finished yet, `serves` the destinations where there are several. `numbered` takes the next free name where it
    is taken; `noted` leaves word of the named file until that is cleared away. `expected_bytes` is what the file was forecast to have,
    `difficulty` what the checks know of the master.
    """

    kind: Literal["pack"] = "pack"
    folder: Path
    drive: Drive | None = None
    file_name: str
    job_id: str = ""
    serves: tuple[str, ...] = ()
    heard: SoundSurvey | None = None
    numbered: bool = False
    noted: bool = False
    expected_bytes: int | None = None
    difficulty: tuple[Difficulty, ...] = ()


UPLOAD_NAME = "upload.film"
"""The file of an upload in its folder."""


class RehearsedFiles(Model):
    """What a rehearsal at an upload rate (bit/s) left on the disk; no upload where the master is sent as it is, no renditions where
    nothing is re-encoded."""

    target_bps: int
    upload: Path | None
    renditions: Path | None


class LookTask(FilmTask):
    """Make one reel picture at every station, at the raster of one screen, as `<station>.png` in `folder`; `mapped` also where it suffers,
    as `<station>.json`."""

    kind: Literal["look"] = "look"
    reel: Reel
    files: RehearsedFiles
    index: int
    screen: Screen
    line: ViewerLine
    folder: Path
    mapped: bool = False


class LadderTask(FilmTask):
    """Make one crop of a reel picture as it arrives at several rates, its middle `at` shares of the width and height of the screen's
    raster, or where the rates differ most, into `folder`."""

    kind: Literal["ladder"] = "ladder"
    reel: Reel
    rungs: tuple[RehearsedFiles, ...]
    index: int
    at: tuple[float, float] | None = None
    screen: Screen
    line: ViewerLine
    folder: Path


class FilmLookTask(Model):
    """Show one packed picture of a whole film on a screen's raster: as `file` has it, or the kept picture of its `master` with these
    `facts`. Not `exact` is what can be had at once; `mapped` is where on it the file suffers instead of the picture."""

    kind: Literal["film_look"] = "film_look"
    master: Path | None
    facts: MasterFacts | None
    plan: Plan
    file: LookedFile | None
    number: int
    screen: Screen
    exact: bool = True
    mapped: bool = False


class StepTask(Model):
    """Show one picture of a master: as it is, `framed` as that plan's encoder would get it, or the `effect` of its sharpening."""

    kind: Literal["step"] = "step"
    path: Path
    facts: MasterFacts
    number: int
    exact: bool = True
    framed: VideoPlan | None = None
    effect: VideoPlan | None = None


class CompareTask(Model):
    """Judge a file beside a reference of the same pictures."""

    kind: Literal["compare"] = "compare"
    reference: Path
    path: Path


class HandoffTask(Model):
    """Find what a file that came back is, and what became of it."""

    kind: Literal["handoff"] = "handoff"
    path: Path
    known: tuple[PackedFile, ...]


class CarryTask(Model):
    """Bring a file to `target` by a courier."""

    kind: Literal["carry"] = "carry"
    path: Path
    courier: str
    target: Path


class DockTask(Model):
    """Take a file as a destination's stand-in does and make in `folder`, which is empty, what its viewers get. `used_bytes` of a quota are
    used already."""

    kind: Literal["dock"] = "dock"
    path: Path
    destination: Destination
    folder: Path
    used_bytes: int = 0


class SendTask(Model):
    """Send a file over a line to a destination's dock at `address`, or go on with an upload that was begun. Its SHA-256 is what was
    packed."""

    kind: Literal["send"] = "send"
    path: Path
    sha256: str
    destination_id: str
    words: Words
    line: SentOver | None
    address: str = ""
    secret: str = ""
    upload_url: str = ""


class ArriveTask(FilmTask):
    """Fetch what a dock serves of a parcel, as it comes, into `folder`, and measure it and the packed file against the master. Files that
    are `known` are not fetched again, and nothing is measured without the master."""

    kind: Literal["arrive"] = "arrive"
    packed: Path
    dock_id: str = ""
    address: str = ""
    secret: str = ""
    folder: Path
    known: tuple[str, ...] = ()
    packed_known: bool = False


class ReturnTask(FilmTask):
    """Lay a file that a platform served over the packed one and measure it. `best` says that nothing better is served; `file_name` is what
    it is called."""

    kind: Literal["returned"] = "returned"
    packed: Path
    path_returned: Path
    file_name: str
    best: bool = True


Task = Annotated[
    InspectTask
    | StripTask
    | CheckTask
    | ListenTask
    | BenchmarkTask
    | ProbeTask
    | RehearseTask
    | PackTask
    | LookTask
    | LadderTask
    | FilmLookTask
    | StepTask
    | CompareTask
    | HandoffTask
    | CarryTask
    | DockTask
    | SendTask
    | ArriveTask
    | ReturnTask,
    Field(discriminator="kind"),
]
TASK: TypeAdapter[Task] = TypeAdapter(Task)


# What it says on its way.


class ProgressMade(Model):
    kind: Literal["progress"] = "progress"
    progress: JobProgress


class FactsFound(Model):
    """The facts, ahead of what takes longer."""

    kind: Literal["facts"] = "facts"
    facts: MasterFacts | FileFacts


class StripGrown(Model):
    kind: Literal["strip_grown"] = "strip_grown"
    pictures: int


class SoundHeard(Model):
    """What was heard so far."""

    kind: Literal["sound_heard"] = "sound_heard"
    sound: SoundSurvey


class ReelChosen(Model):
    kind: Literal["reel_chosen"] = "reel_chosen"
    reel: Reel


class ScaledMeasured(Model):
    kind: Literal["scaled_measured"] = "scaled_measured"
    scaled: ScaledPicture


class EncodeMeasured(Model):
    """A trial encode, kept in `folder`."""

    kind: Literal["encode_measured"] = "encode_measured"
    encode: TrialEncode
    folder: Path


class HandledMeasured(Model):
    """An upload, or a perfect one, through a ladder, its renditions kept in `folder`."""

    kind: Literal["handled_measured"] = "handled_measured"
    handled: HandledUpload
    folder: Path


class PointReached(Model):
    """One point of a curve: its rate, and the keys of what was measured for it; no handled one where nothing is re-encoded."""

    kind: Literal["point_reached"] = "point_reached"
    curve_key: str
    target_bps: int
    encode_key: str
    handled_key: str | None


class UploadProbed(Model):
    """Test encodes in one codec, kept in `folder`."""

    kind: Literal["upload_probed"] = "upload_probed"
    probe: UploadProbe
    folder: Path


class EffortProbed(Model):
    kind: Literal["effort_probed"] = "effort_probed"
    probe: EffortProbe


class HandlingProbed(Model):
    kind: Literal["handling_probed"] = "handling_probed"
    probe: HandlingProbe


class UploadOpened(Model):
    """The address at which an upload goes on."""

    kind: Literal["upload_opened"] = "upload_opened"
    url: str


class FileReturned(Model):
    """A file that a platform serves came back and was measured."""

    kind: Literal["file_returned"] = "file_returned"
    file: ReturnedFile


class PackedMeasured(Model):
    """The packed file itself was measured on the same pictures."""

    kind: Literal["packed_measured"] = "packed_measured"
    measure: PackedMeasure


class SpeedMeasured(Model):
    """How fast a codec encoded in one pass at effort medium."""

    kind: Literal["speed_measured"] = "speed_measured"
    codec: Codec
    pixels_per_s: float


# What it gives back.


class Inspected(Model):
    kind: Literal["inspected"] = "inspected"
    facts: MasterFacts | FileFacts
    survey: Survey | None = None


class StripMade(Model):
    kind: Literal["strip_made"] = "strip_made"
    pictures: int


class LookedThrough(Model):
    kind: Literal["looked_through"] = "looked_through"
    survey: Survey


class Listened(Model):
    kind: Literal["listened"] = "listened"
    sound: SoundSurvey
    loudness: WholeLoudness
    levels: SoundLevels


class RehearsalsMade(Model):
    kind: Literal["rehearsals_made"] = "rehearsals_made"
    rates: tuple[int, ...]


class ProbesMade(Model):
    kind: Literal["probes_made"] = "probes_made"


class MachineMeasured(Model):
    kind: Literal["machine_measured"] = "machine_measured"


class ParcelPacked(Model):
    kind: Literal["parcel_packed"] = "parcel_packed"
    receipt: Receipt


class PicturesMade(Model):
    kind: Literal["pictures_made"] = "pictures_made"
    raster: tuple[int, int]


class CropSeen(Model):
    """A crop's own condition at an upload rate (bit/s)."""

    target_bps: int
    condition: float


class LadderMade(Model):
    """Where on the raster (px) the crop lies, the picture's time in the master (s), and its condition by rate."""

    kind: Literal["ladder_made"] = "ladder_made"
    raster: tuple[int, int]
    x: int
    y: int
    width: int
    height: int
    master_s: Ratio
    seen: tuple[CropSeen, ...]


class PictureShown(Model):
    """One picture as base64 of a JPEG, and whether it is the wanted one or a keyframe near it."""

    kind: Literal["picture_shown"] = "picture_shown"
    number: int
    at_s: float
    exact: bool
    jpeg: str


class LookedAt(Model):
    """Where the picture of a film was written, a still that is gone when the next few are shown; or where it suffers."""

    kind: Literal["looked_at"] = "looked_at"
    picture: Path | None = None
    suffers: SufferingMap | None = None


class EffectShown(Model):
    """A part of one picture without and with sharpening, as base64 of PNGs."""

    kind: Literal["effect_shown"] = "effect_shown"
    number: int
    x: int
    y: int
    width: int
    height: int
    off: str
    on: str


class Compared(Model):
    kind: Literal["compared"] = "compared"
    pictures: int
    judged: tuple[Judged, ...]


class Carried(Model):
    """What a courier did; `kept` says that it is still bit for bit what it was."""

    kind: Literal["carried"] = "carried"
    kept: bool


class RenditionMade(Model):
    """A file that viewers get of what was sent is whole."""

    kind: Literal["rendition_made"] = "rendition_made"
    rendered: Rendered


class Docked(Model):
    """What became of a file that was sent: why it was refused, if it was, else how it was received and all that viewers get of it."""

    kind: Literal["docked"] = "docked"
    refused: tuple[str, ...] = ()
    received: Received | None = None
    rendered: tuple[Rendered, ...] = ()


class SentWhole(Model):
    """A file has arrived at its dock, where it has this id, or was refused before it was sent."""

    kind: Literal["sent_whole"] = "sent_whole"
    dock_id: str = ""
    refused: tuple[str, ...] = ()


class ReturnMeasured(Model):
    kind: Literal["return_measured"] = "return_measured"
    found: ReturnedFound


class AllArrived(Model):
    """Nothing more comes of a parcel: it was taken, refused for these reasons, or failed there."""

    kind: Literal["all_arrived"] = "all_arrived"
    state: DockState
    refused: tuple[str, ...] = ()
    trouble: str = ""


class HandedOver(Model):
    kind: Literal["handed_over"] = "handed_over"
    found: HandoffFound


class Failed(Model):
    """The error that ended the work."""

    kind: Literal["failed"] = "failed"
    problem: Problem


Outcome = (
    Inspected
    | StripMade
    | LookedThrough
    | Listened
    | ProbesMade
    | RehearsalsMade
    | ParcelPacked
    | PicturesMade
    | LadderMade
    | PictureShown
    | EffectShown
    | Compared
    | HandedOver
    | Carried
    | Docked
    | MachineMeasured
    | SentWhole
    | AllArrived
    | ReturnMeasured
    | LookedAt
)
OnTheWay = (
    ProgressMade
    | FactsFound
    | StripGrown
    | SoundHeard
    | ReelChosen
    | ScaledMeasured
    | EncodeMeasured
    | HandledMeasured
    | PointReached
    | UploadProbed
    | EffortProbed
    | HandlingProbed
    | SpeedMeasured
    | RenditionMade
    | UploadOpened
    | FileReturned
    | PackedMeasured
)
Message = Annotated[Outcome | OnTheWay | Failed, Field(discriminator="kind")]
MESSAGE: TypeAdapter[Message] = TypeAdapter(Message)
OUTCOMES: tuple[type[Model], ...] = Outcome.__args__
