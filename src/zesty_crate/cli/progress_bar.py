"""Progress as a line that moves: files, bytes, rate and time left."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from rich.console import Console
from rich.progress import (
    BarColumn,
    DownloadColumn,
    Progress,
    Task,
    TaskID,
    TextColumn,
    TimeRemainingColumn,
    TransferSpeedColumn,
)
from rich.text import Text

from ..progress import Progress as Moment

_BAR = "cyan"


class _Speed(TransferSpeedColumn):
    """The rate, once there is one."""

    def render(self, task: Task) -> Text:
        """Nothing rather than a mark that looks like a fault, and not in the color of faults."""
        known = task.fields["by_bytes"] and (task.finished_speed or task.speed)
        return Text(super().render(task).plain if known else "")


class _Bytes(DownloadColumn):
    """The bytes, where a stage goes by them."""

    def render(self, task: Task) -> Text:
        """Nothing where files are counted alone."""
        return super().render(task) if task.fields["by_bytes"] else Text("")


class ProgressLines:
    """Moments of one piece of work after the other, each stage on a line of its own."""

    def __init__(self, console: Console) -> None:
        self._bars = Progress(
            TextColumn("{task.description:<18}"),
            BarColumn(bar_width=24, complete_style=_BAR, finished_style=_BAR, pulse_style=_BAR),
            TextColumn("{task.fields[files]:>18}"),
            _Bytes(),
            _Speed(),
            TimeRemainingColumn(compact=True),
            console=console,
            transient=True,
        )
        self._tasks: dict[str, TaskID] = {}

    @contextmanager
    def shown(self) -> Iterator[None]:
        """Show them while work continues."""
        with self._bars:
            yield

    @contextmanager
    def paused(self) -> Iterator[None]:
        """Leave the terminal to something else for a while."""
        self._bars.stop()
        yield
        self._bars.start()

    def tell(self, moment: Moment) -> None:
        """Show one moment."""
        if moment.stage not in self._tasks:
            self._tasks[moment.stage] = self._bars.add_task(moment.stage, total=None, files="", by_bytes=False)
        of = f" of {moment.files_total:,}" if moment.files_total else ""
        by_bytes = moment.bytes_total > 0
        self._bars.update(
            self._tasks[moment.stage],
            completed=moment.bytes_done if by_bytes else moment.files_done,
            total=(moment.bytes_total if by_bytes else moment.files_total) or None,
            files=f"{moment.files_done:,}{of} files",
            by_bytes=by_bytes,
        )
