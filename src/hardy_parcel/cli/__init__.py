"""The command line: the same work as on the screens, for scripts and terminals."""

from . import films, planning, recipes, sheets
from .base import main

__all__ = ["films", "main", "planning", "recipes", "sheets"]
