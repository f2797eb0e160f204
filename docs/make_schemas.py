"""Write the JSON Schemas of what each command prints with --json, from the types it is printed from."""

from __future__ import annotations

import dataclasses
import datetime as dt
import json
import types
import typing
from collections.abc import Mapping, Sequence
from enum import Enum
from pathlib import Path
from typing import Any

from guide_schema import guide_schema

from zesty_crate.check import CheckReport, CompareReport
from zesty_crate.crate import CrateFiles, PackReport, RoutineReport, Verified
from zesty_crate.drafting import Draft
from zesty_crate.guide_trials import KnownGuide, Mistake, RehearsalReport, TrialReport
from zesty_crate.moving import UndoReport, UnpackReport
from zesty_crate.plan import PlanReport
from zesty_crate.relink import Doubt, FoundRoute, RelinkReport
from zesty_crate.retire import RetireReport
from zesty_crate.survey import HoldingDetails, HoldingReport, NotLookedAt, Relinked, SurveyReport, no_totals
from zesty_crate.todo import TodoReport

FOLDER = Path(__file__).parent / "schemas"
Schema = dict[str, Any]

TOTALS: Schema = {
    "type": "object",
    "properties": {name: {"type": "integer", "minimum": 0} for name in no_totals()},
    "required": list(no_totals()),
    "additionalProperties": False,
}
TEXT: Schema = {"type": "string"}
TRUTH: Schema = {"type": "boolean"}
STEPS: Schema = {
    "type": "array",
    "items": {
        "type": "object",
        "properties": {"command": TEXT, "lines": {"type": "array", "items": TEXT}, "next": TEXT},
        "additionalProperties": False,
    },
}

MOVE_STEPS: Schema = {
    "type": "array",
    "items": {
        "type": "object",
        "properties": {"command": TEXT, "status": {"type": "integer"}, "document": {"type": ["object", "null"]}},
        "required": ["command", "status", "document"],
        "additionalProperties": False,
    },
}

# For each command: the report it prints, and what stands beside the report's own fields.
OUTCOMES: Schema = {
    "type": ["array", "null"],
    "items": {
        "type": "object",
        "properties": {"holding": TEXT, "at": TEXT, "outcome": {"enum": [str(each) for each in Relinked]}},
        "required": ["holding", "at", "outcome"],
        "additionalProperties": False,
    },
}
COMMANDS: dict[str, tuple[type | None, Schema]] = {
    "demo": (None, {"steps": STEPS, "status": {"type": "integer"}}),
    "sheet": (None, {"sheet": TEXT, "file": {"type": ["string", "null"]}}),
    "survey": (SurveyReport, {"crate": TEXT, "totals": TOTALS}),
    "survey-details": (HoldingDetails, {}),
    "pack": (PackReport, {}),
    "pack-as-file": (CrateFiles, {}),
    "pack-verify-only": (Verified, {"crate": TEXT}),
    "plan": (PlanReport, {}),
    "unpack": (UnpackReport, {"dry-run": TRUTH}),
    "relink": (RelinkReport, {"dry-run": TRUTH, "outcomes": OUTCOMES}),
    "check": (CheckReport, {"totals": TOTALS}),
    "retire": (RetireReport, {}),
    "report": (
        None,
        {
            "page": TEXT,
            "pdf": TEXT,
            "tables": {"type": "array", "items": TEXT},
            "checked": TEXT,
            "totals": TOTALS,
            "attention": {"type": "array", "items": TEXT},
            "open-steps": {"type": "array"},
        },
    ),
    "todo": (TodoReport, {"open": {"type": "integer"}}),
    "pack-routine": (RoutineReport, {}),
    "merge": (None, {"steps": MOVE_STEPS, "stopped-at": {"type": ["string", "null"]}}),
    "move": (None, {"steps": MOVE_STEPS, "stopped-at": {"type": ["string", "null"]}}),
    "compare": (CompareReport, {}),
    "completion": (None, {"shell": TEXT, "script": TEXT}),
    "guide-try": (TrialReport, {}),
    "guide-rehearse": (RehearsalReport, {}),
    "undo": (UndoReport, {"dry-run": TRUTH}),
}


def schema_of(kind: Any) -> Schema:
    """The schema of one type, as the command line turns it into JSON."""
    arguments = typing.get_args(kind)
    if typing.get_origin(kind) is tuple and arguments[-1] is not Ellipsis:
        items = [schema_of(each) for each in arguments]
        return {"type": "array", "prefixItems": items, "minItems": len(items), "maxItems": len(items)}
    if typing.get_origin(kind) in (tuple, Sequence):
        return {"type": "array", "items": schema_of(arguments[0])}
    if typing.get_origin(kind) is dict:
        return TOTALS
    if isinstance(kind, types.UnionType):
        return {"anyOf": [schema_of(each) for each in arguments]}
    if dataclasses.is_dataclass(kind) or hasattr(kind, "_fields"):
        # A path is written as its native text, not taken apart.
        return TEXT if kind.__name__ == "MachinePath" else _object(kind)
    if isinstance(kind, type) and issubclass(kind, Enum):
        return {"enum": [each.value for each in kind]}
    names = {str: "string", dt.datetime: "string", int: "integer", float: "number", bool: "boolean", type(None): "null"}
    return {"type": names[kind]}


def _object(kind: Any, more: Mapping[str, Schema] | None = None) -> Schema:
    hints = typing.get_type_hints(kind)
    names = kind._fields if hasattr(kind, "_fields") else [field.name for field in dataclasses.fields(kind)]
    properties = {name.replace("_", "-"): schema_of(hints[name]) for name in names}
    return _closed({**properties, **(more or {})})


def _closed(properties: Schema) -> Schema:
    return {"type": "object", "properties": properties, "required": list(properties), "additionalProperties": False}


def schemas() -> dict[str, Schema]:
    """Every schema, by the name of its file."""
    error = _closed({"message": TEXT, "details": {"type": "array", "items": TEXT}, "next-step": TEXT})
    found = {"error": _closed({"error": error})}
    for command, (report, more) in COMMANDS.items():
        found[command] = _object(report, more) if report else _closed(dict(more))
    candidate = _closed({"path": TEXT, "confidence": {"type": "number"}, "why": TEXT})
    candidates = {"type": "array", "items": candidate}
    matched = _closed({"recorded": TEXT, "choice": {"type": ["string", "null"]}, "candidates": candidates})
    cannot_say = _closed({"at": TEXT, "entries": {"type": "array", "items": TEXT}, "helps": TEXT})
    found["relink-at"] = _closed(
        {
            "dry-run": TRUTH,
            "routes": schema_of(tuple[FoundRoute, ...]),
            "doubts": schema_of(tuple[Doubt, ...]),
            "explained": {"type": "integer"},
            "cannot-say": {"type": "array", "items": cannot_say},
            "matched": {"type": "array", "items": matched},
            "left": {"type": "array", "items": TEXT},
            "kept": {"type": ["string", "null"]},
            "relinked": schema_of(RelinkReport | None),
        }
    )
    mistakes = {"type": "array", "items": schema_of(Mistake)}
    found["guide-draft"] = _closed(
        {"drafts": schema_of(tuple[Draft, ...]), "not-looked-at": schema_of(tuple[NotLookedAt, ...])}
    )
    found["guide-list"] = _closed({"guides": {"type": "array", "items": schema_of(KnownGuide)}})
    found["guide-lint"] = _closed({"guides": {"type": "object", "additionalProperties": mistakes}})
    found["survey-details-program"] = _closed({"holdings": schema_of(tuple[HoldingReport, ...])})
    written = {name: {"title": f"zesty {name} --json", **schema} for name, schema in found.items()}
    written["guide"] = guide_schema()  # which zesty guide show prints, too
    return {name: {"$schema": "https://json-schema.org/draft/2020-12/schema", **each} for name, each in written.items()}


def text_of(schema: Schema) -> str:
    """A schema as its file has it."""
    return json.dumps(schema, indent=1) + "\n"


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for name, schema in schemas().items():
        (FOLDER / f"{name}.schema.json").write_text(text_of(schema), encoding="utf-8")
