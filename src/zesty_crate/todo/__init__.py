"""What only a person can do, in the order of the work: asked for by guides, by the survey, and by the move itself."""

from .todo import TodoReport, list_steps, refresh_steps, tick

__all__ = [
    "TodoReport",
    "list_steps",
    "refresh_steps",
    "tick",
]
