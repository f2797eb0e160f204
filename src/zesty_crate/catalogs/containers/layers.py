"""What documents may be inside of: a ZIP, a compressed stream, base64, an archive, the values of another document.

Each is a `Layer`: it tells the documents that it holds, and puts other contents in their place without changing
anything else. A guide names several, outermost first: what holds the outermost is the file.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Protocol

from ..model import CatalogError

LARGEST_BYTES = 1 << 28
Leaf = tuple[str, ...]  # the names of a document in each layer that has names, outermost first


class Layer(Protocol):
    """One kind of container. ``title`` names the file in errors."""

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """The documents in it that are meant, by their names; of a container for one alone, that is empty.

        Raises `CatalogError` when the content is no such container, is damaged, or holds none that is meant.
        """

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:
        """The container with other contents of some documents, and else as it was. Raises `CatalogError`."""

    def names(self, content: bytes, title: str) -> frozenset[str]:
        """The names of all that it holds, meant or not."""


def leaves(content: bytes, layers: Sequence[Layer], title: str) -> dict[Leaf, bytes]:
    """The documents inside all layers. Raises `CatalogError`."""
    if not layers:
        return {(): content}
    found: dict[Leaf, bytes] = {}
    for name, inner in layers[0].documents(content, title).items():
        for leaf, document in leaves(inner, layers[1:], title).items():
            found[((name,) if name else ()) + leaf] = document
    return found


def put_all(content: bytes, layers: Sequence[Layer], new: Mapping[Leaf, bytes], title: str) -> bytes:
    """The file with other contents of some documents inside. Raises `CatalogError`."""
    if not layers:
        return new.get((), content)
    changed = {}
    for name, inner in layers[0].documents(content, title).items():
        of_it = {leaf[1:] if name else leaf: each for leaf, each in new.items() if not name or leaf[:1] == (name,)}
        if of_it:
            made = put_all(inner, layers[1:], of_it, title)
            if made != inner:
                changed[name] = made
    return layers[0].put(content, changed, title) if changed else content


def unreadable(title: str, kind: str, why: str) -> CatalogError:
    """A container is not what its guide says."""
    return CatalogError(
        f"The catalog {title} cannot be read as {kind}: {why}.",
        next_step="It may be damaged; open it in its program on the old computer. Or correct its guide.",
    )
