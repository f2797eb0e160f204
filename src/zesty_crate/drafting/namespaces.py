"""Prefixes for the namespaces of a document, made of words of these, so that two documents call one the same."""

from __future__ import annotations

import re

_WORD = re.compile(r"[a-z][a-z0-9]*")
_SAYS_LITTLE = {"http", "https", "www", "ns", "urn", "org", "com", "net", "xml", "schema", "schemas", "xmlns"}


class Prefixes:
    """The namespaces of one document, by their prefixes."""

    def __init__(self) -> None:
        self.namespaces: dict[str, str] = {}
        self._prefixes: dict[str, str] = {}

    def of(self, namespace: str) -> str:
        """The prefix of a namespace; two documents that have it in common call it the same, but for namesakes."""
        known = self._prefixes.get(namespace)
        if known is None:
            word, number = _word_of(namespace), 2
            known = word
            while known in self.namespaces:
                known, number = f"{word}{number}", number + 1
            self._prefixes[namespace], self.namespaces[known] = known, namespace
        return known


def _word_of(namespace: str) -> str:
    words = [each for each in _WORD.findall(namespace.lower()) if each not in _SAYS_LITTLE]
    return words[-1] if words else "n"
