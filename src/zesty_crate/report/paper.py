"""The page on paper: a PDF, laid out by WeasyPrint, which is an extra of this package and needs Pango on the system."""

from __future__ import annotations

import importlib
import re
import types

from ..errors import ZestyError

_STYLE = re.compile(r"<style>.*?</style>", re.DOTALL)
_PRINT = re.compile(r"@media print \{ :root \{(.*?)\}", re.DOTALL)
_COLOR = re.compile(r"(--[\w-]+):\s*([^;]+);")


def require_pdf() -> None:
    """Raise `ZestyError` when no PDF can be made here, with what is lacking."""
    _weasyprint()


def as_pdf(page: str) -> bytes:
    """The page as a tagged PDF, whose headings and tables a screen reader knows. Nothing outside the page is read."""
    weasyprint = _weasyprint()
    fetch = weasyprint.urls.URLFetcher(allowed_protocols=["data"])
    content = weasyprint.HTML(string=_with_colors(page), url_fetcher=fetch).write_pdf(pdf_tags=True)
    return bytes(content)


def _weasyprint() -> types.ModuleType:
    try:
        return importlib.import_module("weasyprint")
    except (ImportError, OSError) as error:  # the package, or a library of the system that it loads
        lacking = str(error).strip().splitlines()[0]
        raise ZestyError(
            f"A PDF is made by WeasyPrint and Pango, and this computer lacks something of them: {lacking}.",
            next_step='Install them (pip install "zesty-crate[pdf]", and Pango by your system), or leave --pdf out and '
            "print the page from a browser.",
        ) from error


def _with_colors(page: str) -> str:
    """The page with its print colors written out in drawings, where WeasyPrint knows none by name."""
    style = _STYLE.search(page)
    named = _PRINT.search(style.group()) if style else None
    colors = dict(_COLOR.findall(named.group(1) + ";")) if named else {}
    end = style.end() if style else 0
    body = re.sub(r"var\((--[\w-]+)\)", lambda found: colors.get(found[1], found[0]).strip(), page[end:])
    return page[:end] + body
