"""The errors of the program. Each has a code, what happened and what to do.

    HardyParcelError                 our fault unless it is one of the following
    ├── BadInput                     what the creator gave cannot be used (exit code 2, HTTP 4xx)
    │   ├── NotFound                 no such file, master, destination or job
    │   ├── UnreadableMaster         not a film, damaged, or without a picture
    │   ├── PlanHeld                 the plan is held, so it cannot be packed
    │   │   └── OverCap              what it came to passes its cap, again and again
    │   ├── PlanChanged              the plan is not the one that was seen
    │   ├── ChangedMeanwhile         somebody else changed it since it was read
    │   ├── NameTaken                a file of that name is already there
    │   ├── FolderUnusable           missing, not writable or outside the configured folders
    │   └── BadChoice                a choice that no plan can follow
    ├── DiskFull                     no room for what was asked
    ├── DockAway                     the other side does not answer
    ├── EncoderTrouble               an encoder refused a setting or dropped one in silence
    ├── PackedFileWrong              what came out is not what was planned
    ├── Cancelled                    stopped on request; nothing is left behind
    └── StoreTrouble                 the database could not be read or written
"""

from __future__ import annotations

from .values import Model


class Problem(Model):
    """An error as it is kept, sent and shown: its class by `kind`, its own code, what happened, what to do."""

    kind: str = ""
    code: str
    what: str
    todo: str = ""

    def error(self) -> HardyParcelError:
        """The error that this was made of, of its own class; our fault where that class is not known."""
        return error_classes().get(self.kind, HardyParcelError)(self.what, self.todo, code=self.code)


class HardyParcelError(Exception):
    """Root of the tree. `str(error)` is one or two sentences fit to be shown."""

    code = "trouble"

    def __init__(self, what: str, todo: str = "", *, code: str | None = None) -> None:
        super().__init__(f"{what} {todo}".strip())
        self.what = what
        self.todo = todo
        if code:
            self.code = code

    def problem(self) -> Problem:
        """The error in a form that crosses a process border and comes back as itself."""
        return Problem(kind=type(self).code, code=self.code, what=self.what, todo=self.todo)


class BadInput(HardyParcelError):
    code = "bad_input"


class NotFound(BadInput):
    code = "not_found"


class UnreadableMaster(BadInput):
    code = "unreadable_master"


class PlanHeld(BadInput):
    code = "plan_held"


class OverCap(PlanHeld):
    code = "over_cap"


class PlanChanged(BadInput):
    code = "plan_changed"


class ChangedMeanwhile(BadInput):
    code = "changed_meanwhile"


class NameTaken(BadInput):
    code = "name_taken"


class FolderUnusable(BadInput):
    code = "folder_unusable"


class BadChoice(BadInput):
    code = "bad_choice"


class DiskFull(HardyParcelError):
    code = "disk_full"


class DockAway(HardyParcelError):
    code = "dock_away"


class EncoderTrouble(HardyParcelError):
    code = "encoder_trouble"


class PackedFileWrong(HardyParcelError):
    code = "packed_file_wrong"


class Cancelled(HardyParcelError):
    code = "cancelled"


class StoreTrouble(HardyParcelError):
    code = "store_trouble"


def error_classes() -> dict[str, type[HardyParcelError]]:
    """Every class of the tree by its own code."""
    found: dict[str, type[HardyParcelError]] = {}
    todo: list[type[HardyParcelError]] = [HardyParcelError]
    while todo:
        cls = todo.pop()
        found[cls.code] = cls
        todo.extend(cls.__subclasses__())
    return found
