"""One JSON document of any result: fast for many items, an item a line, and never more than Unicode."""

from __future__ import annotations

import datetime as dt
import json
from dataclasses import dataclass
from enum import IntEnum, StrEnum
from pathlib import PurePosixPath
from typing import NamedTuple

from zesty_crate.cli.json_text import fields_of, json_text
from zesty_crate.paths import MachinePath, System


class State(StrEnum):
    FOUND = "found"


class Level(IntEnum):
    HIGH = 3


class Size(NamedTuple):
    size_bytes: int


@dataclass(frozen=True)
class Item:
    path_key: MachinePath
    state: State
    sizes: tuple[Size, ...]
    when: dt.datetime | None = None


ITEM = Item(MachinePath(System.WINDOWS, "C:", ("a",)), State.FOUND, (Size(7),), dt.datetime(2026, 3, 1, tzinfo=dt.UTC))
SAID = {"path-key": "C:\\a", "state": "found", "sizes": [{"size-bytes": 7}], "when": "2026-03-01T00:00:00+00:00"}


def test_everything_in_a_result_is_written_by_its_kind() -> None:
    content = {
        "items": [ITEM, ITEM],
        "level": Level.HIGH,
        "at": PurePosixPath("/a"),
        "by": {7: 0.5},
        "none": None,
        "no": [],
    }
    text = "".join(json_text(content))
    wanted = {"items": [SAID, SAID], "level": 3, "at": "/a", "by": {"7": 0.5}, "none": None, "no": []}
    assert json.loads(text) == wanted
    assert [json.loads(line.strip(" ,")) for line in text.splitlines() if line.startswith("    ")] == [SAID, SAID]
    assert json.loads("".join(json_text(fields_of(ITEM)))) == SAID


def test_a_name_that_is_not_unicode_can_be_printed() -> None:
    assert json.loads("".join(json_text({"name": "owl\udcff"}))) == {"name": "owl?"}
