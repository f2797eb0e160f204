"""Zesty Crate: move a person's media libraries and catalogs to a new computer, and prove that nothing was lost.

>>> import zesty_crate as zesty  # doctest: +SKIP
>>> report = zesty.check_computer(zesty.load_sheet("this-computer"), zesty.load_guides("guides"))  # doctest: +SKIP
>>> report.totals["found"], report.attention  # doctest: +SKIP
(377, ())

The names in ``__all__`` are the public interface; everything else is internal and may change.
"""

from __future__ import annotations

import logging
from typing import TYPE_CHECKING, Any

from .version import __version__ as __version__

if TYPE_CHECKING:
    from .api import (
        CatalogContents,
        CheckReport,
        Content,
        Draft,
        Entry,
        Group,
        Guide,
        HalfwayError,
        PackReport,
        PlanReport,
        Progress,
        RelinkReport,
        Scope,
        Sheet,
        State,
        SurveyReport,
        UndoReport,
        UnpackReport,
        Verified,
        ZestyError,
        check_computer,
        check_move,
        draft_guide,
        load_guides,
        load_sheet,
        make_plan,
        pack,
        read_catalog,
        relink_catalogs,
        take_survey,
        undo,
        unpack,
        verify,
    )

__all__ = [
    "CatalogContents",
    "CheckReport",
    "Content",
    "Draft",
    "Entry",
    "Group",
    "Guide",
    "HalfwayError",
    "PackReport",
    "PlanReport",
    "Progress",
    "RelinkReport",
    "Scope",
    "Sheet",
    "State",
    "SurveyReport",
    "UndoReport",
    "UnpackReport",
    "Verified",
    "ZestyError",
    "check_computer",
    "check_move",
    "draft_guide",
    "load_guides",
    "load_sheet",
    "make_plan",
    "pack",
    "read_catalog",
    "relink_catalogs",
    "take_survey",
    "undo",
    "unpack",
    "verify",
]

logging.getLogger(__name__).addHandler(logging.NullHandler())


def __getattr__(name: str) -> Any:
    """Load the library when it is used: the command line answers sooner without it."""
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from . import api

    return getattr(api, name)


def __dir__() -> list[str]:
    return [*__all__, "__version__"]
