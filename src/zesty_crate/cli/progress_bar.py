"""Progress as a line that moves: files, bytes, rate and time left."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from rich.console import Console
from rich.progress import (
    BarColumn,
    DownloadColumn,
    Progress,
    TaskID,
    TextColumn,
    TimeRemainingColumn,
    TransferSpeedColumn,
)

from ..progress import Progress as Moment
from ..progress import Tell


@contextmanager
def shown_progress(console: Console) -> Iterator[Tell]:
    """Show moments of one piece of work after the other, each stage on a line of its own."""
    columns = (
        TextColumn("{task.description:<18}"),
        BarColumn(bar_width=24),
        TextColumn("{task.fields[files]:>18}"),
        DownloadColumn(),
        TransferSpeedColumn(),
        TimeRemainingColumn(compact=True),
    )
    with Progress(*columns, console=console, transient=True) as bars:
        tasks: dict[str, TaskID] = {}

        def tell(moment: Moment) -> None:
            if moment.stage not in tasks:
                tasks[moment.stage] = bars.add_task(moment.stage, total=None, files="")
            of = f" of {moment.files_total:,}" if moment.files_total else ""
            by_bytes = moment.bytes_total > 0
            bars.update(
                tasks[moment.stage],
                completed=moment.bytes_done if by_bytes else moment.files_done,
                total=(moment.bytes_total if by_bytes else moment.files_total) or None,
                files=f"{moment.files_done:,}{of} files",
            )

        yield tell
