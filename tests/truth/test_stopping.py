"""Whatever stops a command, it ends with its status and one sentence, and the work can be gone on with."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip

pytestmark = pytest.mark.skipif(os.name == "nt", reason="signals of other systems")
ZESTY = str(Path(sys.executable).with_name("zesty"))


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(1_200))
    assert trip.survey().returncode == 0
    return trip


@pytest.mark.parametrize("name", ["SIGINT", "SIGTERM", "SIGHUP"])
def test_a_signal_stops_it_with_a_sentence(trip: Trip, name: str) -> None:
    for number in range(5):  # on a busy machine it may have ended before the signal came
        status, said = signalled(trip, name)
        if status:
            break
        trip.crate = trip.root / f"crate {number}"
        assert trip.survey().returncode == 0
    assert status == 4, said
    assert said.endswith("Stopped.\nRun the same command again to continue.\n")
    assert "Traceback" not in said
    assert trip.pack().returncode == 0
    assert trip.arrived().returncode == 0


def signalled(trip: Trip, name: str) -> tuple[int, str]:
    """How packing ended that got a signal once it had begun to copy, and what it said."""
    packing = subprocess.Popen(
        [ZESTY, "pack", trip.crate],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        preexec_fn=lambda: signal.signal(getattr(signal, name), signal.SIG_DFL),  # whoever runs the tests may ignore it
    )
    while not (trip.crate / "data").exists():
        time.sleep(0.0002)
    packing.send_signal(signal.SIGSTOP)
    packing.send_signal(getattr(signal, name))
    packing.send_signal(signal.SIGCONT)
    _, said = packing.communicate()
    return packing.returncode, said


@pytest.mark.parametrize("output", ["/dev/full", "closed"])
@pytest.mark.parametrize("command", ["survey", "todo", "survey --json", "completion bash"])
def test_an_output_that_takes_nothing_is_told(trip: Trip, command: str, output: str) -> None:
    if output == "/dev/full" and not Path(output).exists():
        pytest.skip("this system has no such file")
    name, *more = command.split()
    crate = [str(trip.crate)] if name in ("survey", "todo") else []
    with Path(os.devnull if output == "closed" else output).open("w") as full:
        stdout = subprocess.PIPE if output == "closed" else full
        arguments = [ZESTY, name, *crate, *more]
        writing = subprocess.Popen(arguments, stdout=stdout, stderr=subprocess.PIPE, text=True)
        if writing.stdout is not None:
            writing.stdout.close()
        assert writing.stderr is not None
        said = writing.stderr.read()
        assert writing.wait() == 4, said
    assert "Traceback" not in said and "ignored" not in said
    assert ("The output could not be written: No space left on device." in said) == (output == "/dev/full")
