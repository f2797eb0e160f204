"""A process beside this one copies and reads small files as this one does; what it cannot do is left to this one."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Sequence
from pathlib import Path

import pytest

from zesty_crate.machines import Disk, SmallWork, in_parallel
from zesty_crate.machines.worker import Worker, a_worker
from zesty_crate.systems.worker_program import SMALL_BYTES, Order

DATE_NS = 1_600_000_000_123_456_789


def copy_order(folder: Path, name: str = "a", otherwise: dict[str, object] | None = None) -> Order:
    """An order to copy a file of this folder, as it is at this moment."""
    facts = Disk().facts(folder / name)
    assert facts is not None
    options = {"facts": facts.plain, "sha512": "", "target": str(folder / f"{name} there")} | (otherwise or {})
    return (
        str(folder / name),
        str(folder / f"{name}.part"),
        str(options["target"]),
        options["facts"],
        str(options["sha512"]),
        DATE_NS,
        0o640,
    )  # type: ignore[return-value]  # as drawn up above


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "a").write_text("rain on the roof")
    return tmp_path


def answers(*orders: Order) -> list[str]:
    with a_worker() as worker:
        assert worker is not None
        return worker.give(orders).result(timeout=20)


def test_a_copy_has_content_date_mode_and_name(folder: Path) -> None:
    assert answers(copy_order(folder)) == [hashlib.sha512(b"rain on the roof").hexdigest()]
    there = (folder / "a there").stat()
    assert ((folder / "a there").read_text(), there.st_mtime_ns, there.st_mode & 0o777) == (
        "rain on the roof",
        DATE_NS,
        0o640,
    )
    assert not (folder / "a.part").exists()


@pytest.mark.parametrize(
    "otherwise",
    [{"sha512": "0" * 128}, {"facts": ("file", 3, 4, 5, "")}, {"target": "/nowhere/at/all"}],
    ids=["content differs", "changed since", "no place"],
)
def test_what_is_not_as_it_must_be_leaves_nothing_and_stops_nothing_else(
    folder: Path, otherwise: dict[str, object]
) -> None:
    (folder / "b").write_text("wind")
    said = answers(copy_order(folder, otherwise=otherwise), copy_order(folder, "b"))
    assert (said[0], bool(said[1])) == ("", True)
    assert sorted(path.name for path in folder.iterdir()) == ["a", "b", "b there"]


def test_what_stands_in_the_way_is_never_replaced_by_a_part(folder: Path) -> None:
    (folder / "a.part").write_text("somebody's own")
    assert answers(copy_order(folder)) == [""]
    assert (folder / "a.part").read_text() == "somebody's own"


def test_a_file_that_is_not_small_is_no_work_for_a_worker(folder: Path) -> None:
    with (folder / "large").open("wb") as file:
        file.truncate(SMALL_BYTES + 1)
    assert answers((str(folder / "large"), True), (str(folder / "a"), False))[0] == ""


def test_when_the_hand_is_gone_the_work_is_done_here(folder: Path) -> None:
    names = [str(number) for number in range(40)]
    for name in names:
        (folder / name).write_text(name)

    def here(batch: list[str]) -> list[str]:
        return [hashlib.sha512((folder / name).read_bytes()).hexdigest() for name in batch]

    def orders(batch: list[str], _by_worker: bool) -> Sequence[Order]:
        return [(str(folder / name), False) for name in batch]

    def result(batch: list[str], answers: list[str]) -> list[str]:
        return answers or here(batch)

    def run(worker: Worker, *, harm: bool) -> list[list[str]]:
        done = []
        batches = ([name] for name in names)
        for number, (_, digests) in enumerate(in_parallel(here, batches, SmallWork(worker, orders, result))):
            done.append(digests)
            if harm and number == 5:
                worker.end()
        return done

    wanted = [here([name]) for name in names]
    for harm in (False, True):
        with a_worker() as worker:
            assert worker is not None
            assert run(worker, harm=harm) == wanted


def test_names_that_are_not_unicode_go_through(folder: Path) -> None:
    name = os.fsdecode(b"caf\xe9")
    (folder / name).write_text("x")
    assert answers(copy_order(folder, name)) == [hashlib.sha512(b"x").hexdigest()]
