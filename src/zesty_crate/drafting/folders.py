"""The folders of a draft: those of media, companions named after media, presets, and all the rest."""

from __future__ import annotations

import hashlib
import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence

from ..machines import Disk
from ..paths import MachinePath, file_url, with_slashes
from .documents import Place
from .drafted import Drafted
from .factory import Factory, ProgramFiles
from .manners import Judge
from .names import ending_of
from .places import Templates, media_folders
from .write import Block, toml

_MOST_EXAMPLES = 3
_FEWEST_PRESETS = 3
_MANY_FOLDERS = 4  # of media in one usual place, to take that place for theirs
_MOST_INSIDE = 2  # folders of media in a folder that was looked at, to be told each by itself
_NAMED = 0.5  # of the files in a folder, to be named by a digest of media
_NAMED_ALIKE = 0.8
_METHODS = ("md5", "sha1", "sha256")


def draft_media(drafted: Drafted, templates: Templates, own: Sequence[MachinePath]) -> None:
    """The folders in which the media of all entries are."""
    found = media_folders(templates, dict.fromkeys(drafted.media))
    drafted.taken = {templates.of(each) for each in found}
    _draft_whole_places(found, drafted, templates)
    for folder, number in sorted(found.items(), key=lambda each: (-each[1], str(each[0]))):
        told: dict[str, object]
        files = f"{number:,} of the files that entries name"
        if templates.is_a_place(folder):
            template = templates.of(folder)
            told = {"id": drafted.new_id("loose"), "kind": "media", "at": template}
            why = f"{files} are right in {template}, among what others have there."
            drafted.blocks.append(Block("[[holding]]", told, [why], commented=True))
            continue
        if any(templates.is_within(place, folder) for place in own):
            continue  # beside the documents, which are carried with all that is there
        inner = next((place for place in own if templates.is_within(folder, place)), None)
        if inner is not None and sum(templates.is_within(each, inner) for each in found) > _MOST_INSIDE:
            drafted.of_content[inner] = drafted.of_content.get(inner, 0) + number
            continue
        identifier = drafted.new_id(folder.name)
        template = templates.of(folder)
        if not template.startswith("{"):
            template = drafted.new_place(identifier, folder, templates)
        told = {"id": identifier, "kind": "media", "at": template}
        drafted.blocks.append(Block("[[holding]]", told, [files]))
        drafted.folders.append(folder)


def _draft_whole_places(found: dict[MachinePath, int], drafted: Drafted, templates: Templates) -> None:
    """A usual place of media itself, where many of the folders in it are named by entries."""
    for name in ("music", "pictures", "movies"):
        place = templates.computer.place(name)
        inside = [each for each in found if templates.is_within(each, place)]
        if len(inside) < _MANY_FOLDERS or any(templates.is_within(each, place) for each in templates.own.values()):
            continue
        number = sum(found.pop(each) for each in inside)
        told: dict[str, object] = {"id": drafted.new_id(name), "kind": "media", "at": f"{{{name}}}"}
        drafted.blocks.append(
            Block("[[holding]]", told, [f"{number:,} of the files that entries name, in {len(inside):,} folders"])
        )
        drafted.folders.append(place)


def draft_rest(
    drafted: Drafted,
    templates: Templates,
    files: Sequence[Place],
    own: Sequence[MachinePath],
    judge: Judge,
    disk: Disk,
) -> None:
    """What else is in the folders that were looked at: companions and presets by folders, the rest as settings."""
    media = {templates.computer.key(each) for each in drafted.media}
    left = [e.path for e in files if e.path not in drafted.covered and templates.computer.key(e.path) not in media]
    for place in own:
        rest = [each for each in left if templates.is_within(each, place)]
        if place in drafted.of_content:
            told: dict[str, object] = {
                "id": drafted.new_id(place.name),
                "kind": "content-pack",
                "at": templates.of(place),
            }
            why = f"{drafted.of_content[place]:,} of the files that entries name"
            drafted.blocks.append(Block("[[holding]]", told, [why]))
            continue
        of_program = ProgramFiles(judge.computer, judge.finder, disk, place)
        for folder, inside in sorted(_by_top(rest, place).items(), key=lambda each: str(each[0])):
            if folder not in drafted.folders:
                factory = of_program.factory_in(folder, inside)
                drafted.blocks += _of_folder(folder, inside, drafted, templates, factory)
        if rest and not templates.is_shared_place(place) and not templates.is_a_place(place):
            told = {"id": drafted.new_id("settings"), "kind": "settings", "at": templates.of(place)}
            names = ", ".join(each.name for each in rest[:_MOST_EXAMPLES])
            drafted.blocks.append(Block("[[holding]]", told, [f"Everything else in its folder, such as {names}"]))


def _by_top(paths: Sequence[MachinePath], place: MachinePath) -> dict[MachinePath, list[MachinePath]]:
    """The files in each folder that is right in a place."""
    found: defaultdict[MachinePath, list[MachinePath]] = defaultdict(list)
    depth = len(place.parts) + 1
    for each in paths:
        if len(each.parts) > depth:
            found[each._replace(parts=each.parts[:depth])].append(each)
    return found


def _of_folder(
    folder: MachinePath,
    inside: Sequence[MachinePath],
    drafted: Drafted,
    templates: Templates,
    factory: Factory | None,
) -> Iterator[Block]:
    """A folder with files of one kind."""
    endings = Counter(ending_of(each.name) for each in inside)
    if endings.most_common(1)[0][1] < _FEWEST_PRESETS:
        return
    kinds = (
        f"{number:,} .{ending}" if ending else f"{number:,} without an ending"
        for ending, number in endings.most_common(3)
    )
    above = [f"{len(inside):,} files: {', '.join(kinds)}"]
    told: dict[str, object] = {"id": drafted.new_id(folder.name), "kind": "presets", "at": templates.of(folder)}
    named_by = _named_by(inside, drafted.media)
    if named_by is not None:
        told |= {"kind": "companions", "named-by": named_by}
        above.append("Their names are digests of the paths of media: they get new names with new paths.")
    elif _are_named_alike(inside, drafted.media):
        told["kind"] = "companions"
        above.append('Named like media, or by digests. If the program makes them again by itself, say kind = "cache".')
    below = []
    if factory is not None:
        below = [
            f"{factory.files:,} files have one of their name and size among the program's, such as {factory.like}.",
            f"The content of {factory.compared:,} was compared and is the same. Where the installer brings them, say:",
            f"factory = {toml(factory.patterns)}",
        ]
    yield Block("[[holding]]", told, above, below=below)


def _named_by(inside: Sequence[MachinePath], media: Sequence[MachinePath]) -> dict[str, str] | None:
    """By which digest of which form of a path files are named."""
    stems = {each.name.partition(".")[0].lower(): each.name for each in inside}
    forms: dict[str, Callable[[MachinePath], str]] = {
        "native": str,
        "slashes": lambda path: with_slashes(str(path)),
        "file-url": file_url,
    }
    for form, spelled in forms.items():
        texts = [spelled(path).encode("utf-8", "surrogatepass") for path in dict.fromkeys(media)]
        for method in _METHODS:
            digests = {hashlib.new(method, text, usedforsecurity=False).hexdigest() for text in texts}
            hits = [name for stem, name in stems.items() if stem in digests]
            if len(hits) >= max(2, _NAMED * len(stems)):
                ending = Counter(name.partition(".")[2] for name in hits).most_common(1)[0][0]
                return {"path": form, "as": method, "name": f"{{key}}.{ending}" if ending else "{key}"}
    return None


def _are_named_alike(inside: Sequence[MachinePath], media: Sequence[MachinePath]) -> bool:
    """Whether nearly all files are named by some digest, or have the names or stems of media."""
    names = {each.name for each in media} | {each.name.rpartition(".")[0] for each in media}
    alike = sum(
        re.fullmatch(r"[0-9a-f]{16,}", each.name.partition(".")[0].lower()) is not None
        or each.name.rpartition(".")[0] in names
        for each in inside
    )
    return alike >= max(_FEWEST_PRESETS, _NAMED_ALIKE * len(inside))
