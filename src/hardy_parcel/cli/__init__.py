"""The command line: the same work as on the screens, for scripts and terminals."""

from . import (
    backup_commands,
    dock_command,
    film_commands,
    forecast_commands,
    pack_command,
    plan_command,
    queue_commands,
    recipe_commands,
    report_command,
    sheet_commands,
)
from .base import main

__all__ = [
    "backup_commands", "dock_command", "film_commands", "forecast_commands", "main", "pack_command", "plan_command", "queue_commands",
    "recipe_commands", "report_command", "sheet_commands",
]
