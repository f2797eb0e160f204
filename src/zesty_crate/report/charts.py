"""The report's pictures, drawn by Matplotlib as SVG within the page, which takes the page's colors."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..crate import readable_size
from ..survey import summed
from .gather import Gathered

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

# Drawn in these, and replaced by the page's own colors, so that dark mode and print need no second drawing.
_INK, _SOFT, _BARS = "#010203", "#040506", ("#0a0b0c", "#0d0e0f", "#101112")
_PAGE_COLORS = {
    _INK: "var(--ink)",
    _SOFT: "var(--soft)",
    _BARS[0]: "var(--bar-1)",
    _BARS[1]: "var(--bar-2)",
    _BARS[2]: "var(--bar-3)",
}
_WIDE_IN = 8.2
_MOST_BARS, _MOST_FLOWS = 14, 12
_LONGEST_LABEL = 44


def holdings_chart(gathered: Gathered) -> str:
    """Files of each holding before, carried, and now."""
    rows = [each for each in gathered.check.report.holdings if each.old.files or each.new.files]
    rows = sorted(rows, key=lambda each: -each.old.files)[:_MOST_BARS][::-1]
    series = [
        [each.old.files for each in rows],
        [each.carried.files for each in rows],
        [each.new.files for each in rows],
    ]
    return _bars([each.title for each in rows], series, ["before", "carried", "now"], "files")


def states_chart(gathered: Gathered) -> str:
    """Catalog entries by state, before and now."""
    before, now = summed(each.before for each in gathered.check.report.holdings), gathered.check.report.totals
    states = [state for state in before if state != "entries" and (before[state] or now[state])][::-1]
    series = [[before[state] for state in states], [now[state] for state in states]]
    return _bars(states, series, ["before", "now"], "catalog entries")


def kinds_chart(gathered: Gathered) -> str:
    """Sizes of what was carried by kind of file."""
    rows = gathered.kinds[:_MOST_BARS][::-1]
    labels = [f"{each.ending} ({each.files:,})" for each in rows]
    return _bars(labels, [[each.size_bytes for each in rows]], ["size"], "size", sizes=True)


def flow_picture(gathered: Gathered) -> str:
    """Folders of the old computer flowing to folders of the new one, the wider the more files; without hidden ones."""
    counted = _flows(gathered)
    if not counted:
        return ""
    figure, axes = _figure(0.55 * len(counted) + 0.7)
    axes.set_axis_off()
    news = sorted(
        {new for _, new, _ in counted}, key=lambda new: min(i for i, each in enumerate(counted) if each[1] == new)
    )
    heights = dict.fromkeys(news, 0.0)
    unit = {flow: 0.12 + 0.75 * (flow[2] / max(each[2] for each in counted)) ** 0.5 for flow in counted}
    at, tops = 0.0, {}
    for new in news:
        tops[new] = at
        at -= max(1.0, sum(unit[flow] for flow in counted if flow[1] == new) + 0.25)
    for number, flow in enumerate(counted):
        old, new, files = flow
        left, right, thick = -float(number), tops[new] - heights[new], unit[flow]
        heights[new] += thick
        _band(axes, left, right, thick)
        axes.text(-0.01, left, f"{_short(old)}  ", ha="right", va="center", color=_INK)
        axes.text(0.5, (left + right) / 2, f"{files:,}", ha="center", va="center", color=_INK, fontweight="bold")
    for new in news:
        axes.text(
            1.01,
            tops[new] - heights[new] / 2 + unit[next(f for f in counted if f[1] == new)] / 2,
            f"  {_short(new)}",
            ha="left",
            va="center",
            color=_INK,
        )
    axes.text(-0.01, 0.75, f"{gathered.survey.computer}  ", ha="right", color=_SOFT)
    axes.text(1.01, 0.75, f"  {gathered.new_computer}", ha="left", color=_SOFT)
    axes.set_xlim(-1.15, 2.15)
    axes.set_ylim(min(at, -len(counted)) + 0.3, 1.1)
    return _svg(figure)


def _flows(gathered: Gathered) -> list[tuple[str, str, int]]:
    """Routes as from, to, and number of carried files, those with most files."""
    shown = [(each.old, each.new, each.files) for each in gathered.flows if not each.is_hidden]
    flows = sorted(shown, key=lambda each: -each[2])[:_MOST_FLOWS]
    return sorted(flows, key=lambda each: (each[1], each[0]))


def _band(axes: Axes, left: float, right: float, thick: float) -> None:
    """One flow: an S-shaped band from the left to the right."""
    from matplotlib.patches import PathPatch
    from matplotlib.path import Path

    low, high = -thick / 2, thick / 2
    points = [
        (0, left + high),
        (0.5, left + high),
        (0.5, right + high),
        (1, right + high),
        (1, right + low),
        (0.5, right + low),
        (0.5, left + low),
        (0, left + low),
        (0, left + high),
    ]
    codes = [Path.MOVETO, *[Path.CURVE4] * 3, Path.LINETO, *[Path.CURVE4] * 3, Path.CLOSEPOLY]
    axes.add_patch(PathPatch(Path(points, codes), facecolor=_BARS[0], edgecolor="none", alpha=0.55))


def _bars(
    labels: Sequence[str], series: Sequence[Sequence[int]], names: Sequence[str], what: str, *, sizes: bool = False
) -> str:
    """Horizontal bars, each with its number written at its end."""
    figure, axes = _figure(0.24 * len(labels) * len(series) + 0.12 * len(labels) + 0.6)
    high = 0.8 / len(series)
    most = max((max(values, default=0) for values in series), default=0) or 1
    for number, values in enumerate(series):
        at = [each + 0.4 - high * (number + 0.5) for each in range(len(labels))]
        axes.barh(at, values, height=high * 0.9, color=_BARS[number], label=names[number])
        for place, value in zip(at, values, strict=True):
            said = readable_size(value) if sizes else f"{value:,}"
            axes.text(value + most * 0.01, place, said, va="center", color=_INK, fontsize=8)
    axes.set_yticks(range(len(labels)), [_short(each) for each in labels])
    axes.set_xlim(0, most * 1.15)
    axes.set_ylim(-0.6, len(labels) - 0.4)
    axes.set_xticks([])
    for side in axes.spines.values():
        side.set_visible(False)
    axes.tick_params(colors=_INK, length=0)
    if len(series) > 1:
        legend = axes.legend(frameon=False, labelcolor=_INK, loc="lower right", title=what)
        legend.get_title().set_color(_SOFT)
    return _svg(figure)


def _figure(high_in: float) -> tuple[Figure, Axes]:
    from matplotlib import rcParams
    from matplotlib.figure import Figure

    rcParams["svg.fonttype"] = "none"  # texts stay texts: they can be searched and read aloud
    rcParams["svg.hashsalt"] = "zesty"
    rcParams["font.size"] = 9
    rcParams["font.family"] = "sans-serif"
    figure = Figure(figsize=(_WIDE_IN, high_in), layout="constrained")
    return figure, figure.add_subplot()


def _svg(figure: Figure) -> str:
    """The drawing without its head, in the page's colors, as wide as there is room."""
    stream = io.StringIO()
    figure.savefig(stream, format="svg", transparent=True, metadata={"Date": None})
    text = stream.getvalue()
    text = text[text.index("<svg") :]
    text = re.sub(r"<metadata>.*?</metadata>", "", text, flags=re.DOTALL)
    text = re.sub(r'(<svg[^>]*?) width="[^"]*"', r"\1", text, count=1)
    text = re.sub(r'(<svg[^>]*?) height="[^"]*"', r'\1 aria-hidden="true" focusable="false"', text, count=1)
    for drawn, color in _PAGE_COLORS.items():
        text = text.replace(drawn, color)
    return text.replace("'DejaVu Sans'", "system-ui").replace("DejaVu Sans", "system-ui")


def _short(text: str) -> str:
    if len(text) <= _LONGEST_LABEL:
        return text
    keep = (_LONGEST_LABEL - 3) // 2
    return f"{text[:keep]}...{text[-keep:]}"
