"""The holdings of a draft: documents with entries, media folders, and what else is in the place."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

from ..machines import Disk
from ..paths import MachinePath, Spelling
from .details import Details, Known, details_of, remote_of
from .documents import Kind
from .drafted import Drafted
from .explain import Entries, leads_of
from .groups import groups_in_database, groups_in_text
from .hanging import merging_blocks
from .manners import Judge
from .met_twice import identity_met
from .model import DraftedEntries
from .names import ending_of
from .places import Templates
from .sequences import first_of, say_first_files, say_sequences
from .siblings import siblings_of
from .write import Block


def draft_documents(
    kinds: Sequence[tuple[Kind, Sequence[Entries]]], drafted: Drafted, templates: Templates, judge: Judge, disk: Disk
) -> None:
    """A holding for each kind of document that records paths; one more for each folder where relative ones start."""
    has_settings = {kind for kind, _ in drafted.settings.values()}
    for kind, found in sorted(kinds, key=lambda each: id(each[0]) not in has_settings):  # which others start from
        by_start: defaultdict[tuple[str, MachinePath | None], list[Entries]] = defaultdict(list)
        for each in found:
            is_relative = each.manner.spelling.is_relative
            start = (each.manner.start, each.manner.base) if is_relative else ("folder", None)
            anywhere = each.table.more.get("comment", "") + each.table.more.get("delimiter", "")
            by_start[(start[0] + anywhere, start[1])].append(each)
        for (_, base), entries in by_start.items():
            _draft_holding(kind, entries, base, drafted, templates, judge, disk)


def _draft_holding(
    kind: Kind,
    entries: Sequence[Entries],
    base: MachinePath | None,
    drafted: Drafted,
    templates: Templates,
    judge: Judge,
    disk: Disk,
) -> None:
    first = kind.files[0].path
    stem = kind.branch.rpartition("\\")[2] or first.name.rpartition(".")[0] or first.name
    is_one = kind.number <= 1
    told: dict[str, object] = {
        "id": drafted.new_id(stem if is_one else ending_of(first.name) or stem),
        "kind": _kind_of(kind, entries, templates),
        **_where(kind, templates),
        "syntax": kind.syntax,
    }
    told |= _how_to_read(kind, entries)
    if base is not None:
        template = templates.of(base)
        if not template.startswith("{"):
            template = drafted.new_place(f"{told['id']}-base", base, templates)
        told["relative-to"] = drafted.setting_for(base) or template
    elif entries[0].manner.start == "document" and entries[0].manner.spelling.is_relative:
        told["relative-to"] = "document"
    number = f"{kind.number:,} documents of this kind; {len(kind.files):,} of them were read" if not is_one else ""
    drafted.blocks.append(Block("[[holding]]", told, [number] if number else []))
    drafted.covered |= set() if kind.branch else {each.path for each in kind.files}
    drafted.ids[id(kind)] = str(told["id"])
    copied: set[str] = set()
    for each in entries:
        if not each.own <= copied:  # what is made of a path is no other path
            copied |= _draft_entries(kind, each, str(told["id"]), drafted, judge, disk, primary=each is entries[0])


def _how_to_read(kind: Kind, entries: Sequence[Entries]) -> dict[str, object]:
    """What a guide says of a document's form."""
    told: dict[str, object] = {}
    if kind.inside:
        told["inside"] = kind.inside[0] if len(kind.inside) == 1 else list(kind.inside)
    if kind.encoding:
        told["encoding"] = ["utf-8", kind.encoding] if kind.encoding.startswith("cp") else kind.encoding
    more = {name: value for each in entries for name, value in each.table.more.items()}
    used = " ".join(str(value) for each in entries for value in (each.table.each, each.pieces, *each.table.fields))
    known = {name: value for each in entries for name, value in each.table.namespaces.items()}
    if spaces := {name: value for name, value in known.items() if f"{name}:" in used}:
        told["namespaces"] = spaces
    told |= {name: more[name] for name in ("comment", "delimiter") if name in more}
    carried = {name for each in entries for name in each.carried}
    if carried:
        told["carry"] = [more[f"carry:{name}"] for name in sorted(carried)]
    if more.get("anywhere"):
        told["anywhere"] = True
    if kind.syntax == "tagged":
        told["records"] = entries[0].table.records or "riff"
    return told


def _where(kind: Kind, templates: Templates) -> dict[str, object]:
    if kind.branch:
        return {"branch": kind.branch}
    first = kind.files[0].path
    if kind.number <= 1 and len(kind.files) == 1:
        return {"at": templates.of(first)}
    endings = {ending_of(each.path.name) for each in kind.files}
    names = {each.path.name for each in kind.files}
    folders = {each.path.parent for each in kind.files}
    pattern = f"*.{first.name.rpartition('.')[2]}" if endings != {""} else next(iter(names)) if len(names) == 1 else "*"
    if len(folders) == 1:
        return {"at": templates.of(first.parent.below(pattern))}
    return {"sweep": [pattern], "within": sorted({templates.of(each) for each in _outermost(folders, templates)})}


def _outermost(folders: Iterable[MachinePath], templates: Templates) -> list[MachinePath]:
    """The folders around all others; those beside each other as the one around both."""
    found = sorted(folders, key=lambda each: len(each.parts))
    outer: list[MachinePath] = []
    for each in found:
        if not any(templates.is_within(each, one) for one in outer):
            outer.append(each)
    parents = {each.parent for each in outer}
    if len(outer) > 1 and len(parents) == 1 and not templates.is_shared_place(next(iter(parents))):
        return list(parents)
    return outer


def _kind_of(kind: Kind, entries: Sequence[Entries], templates: Templates) -> str:
    if kind.branch:
        return "registrations"
    is_setting = all(len(each.covered) <= len(kind.files) for each in entries)
    in_own = any(templates.is_within(kind.files[0].path, each) for each in templates.own.values())
    in_own = in_own and not templates.is_for_people(kind.files[0].path)
    if kind.number > 1:
        return "project" if not in_own else "presets" if kind.database is None else "catalog"
    return "settings" if is_setting and in_own else "catalog" if in_own else "project" if is_setting else "catalog"


def _draft_entries(
    kind: Kind, entries: Entries, holding: str, drafted: Drafted, judge: Judge, disk: Disk, *, primary: bool
) -> set[str]:
    """The block of some entries; the fields that are made of their paths."""
    in_database = kind.database is not None
    leads = leads_of(entries, judge)
    known = []
    for row, text, path in leads:
        seen = judge.finder.find(path)
        if seen.facts is not None and seen.facts.is_file and seen.real is not None:
            known.append(Known(row, text, path, seen.facts, seen.real))
            drafted.media.append(path)
        elif seen.facts is not None:
            drafted.folders.append(path)
    details = _details(kind, entries, known, disk, primary=primary)
    details.say("path", entries.pieces)
    if entries.manner.spelling is not Spelling.NATIVE:
        details.say("spelling", str(entries.manner.spelling))
    if entries.frames:
        say_sequences(details, entries, leads, judge)
        drafted.media += [first_of(path, judge) for _, _, path in leads]
    elif say_first_files(details, entries, known, judge):
        pass  # what lies beside them are their other files
    elif beside := siblings_of(sorted({each.path for each in known}), judge.finder):
        details.say("beside", beside, "files that lie beside these")
    _say_remote(details, entries, {row for row, _, _ in leads}, in_database=in_database)
    if entries.explained.to_folders:
        details.say("folder", value=True)
    told = _selection(kind, entries) | {name: details.told[name] for name in _ORDER if name in details.told}
    drafted.blocks.append(Block("[[holding.entries]]", told, _evidence(entries), details.evidence))
    drafted.entries.append(_drafted(kind, entries, holding))
    if "key" in details.told and isinstance(details.told["key"], str):
        _draft_groups(kind, entries, details.told["key"], drafted, is_primary=primary)
    copies = details.told.get("copies")
    return {str(each["at"]) for each in copies} if isinstance(copies, list) else set()


_ORDER = (
    "key", "name", "path", "spelling", "folder", "numbered", "size", "content", "modified", "duration", "dimensions",
    "remote", "remote-like", "beside", "copies", "pointers", "annotations", "identity", "changed",
)  # fmt: skip


def _selection(kind: Kind, entries: Entries) -> dict[str, object]:
    """Which records are entries."""
    table = entries.table
    told: dict[str, object] = {}
    if kind.database is not None:
        told["table"] = table.each
        if entries.only is not None:
            selector, has_value = entries.only
            told["where"] = f'{_is_told(entries, "")} AND "{selector}" IS {"NOT " if has_value else ""}NULL'
        elif _lacks_some(entries):
            is_field = " GLOB '*[%#*]*'" if entries.frames else " NOT GLOB '*[%#*]*'"
            told["where"] = _is_told(entries, "" if entries.frames is None else is_field)
    elif table.each:
        told["each"] = _with_filter(kind, entries)
    if "values" in table.more:
        told["values"] = table.more["values"]
    return told


def _details(kind: Kind, entries: Entries, known: Sequence[Known], disk: Disk, *, primary: bool) -> Details:
    table = entries.table
    rows = [row for row, text in zip(entries.rows, entries.recorded, strict=True) if text]
    recorded = [text for text in entries.recorded if text]
    unique: list[tuple[str, ...]] = []
    if kind.database is not None:
        keys = kind.database.keys[table.each] or ("rowid",)
        unique = [keys if primary else (*keys, *sorted(entries.own))]
        if not primary:
            unique = [tuple(dict.fromkeys(unique[0]))]
    ways = kind.database.ways_from(table.each) if kind.database is not None else []
    vias = (str(source.piece.get("via")) for source in entries.sources)
    taken = {*entries.own, *vias, *(way.via for way in ways if way.is_evident)}
    fields = list(table)
    if "values" in table.more:
        taken |= {"value"}
        unique = [("name",)]
    details = details_of(fields, known, rows, recorded, table.at, unique, taken, disk)
    told = details.told.get("key")
    met = identity_met(kind, entries, set(told) if isinstance(told, list) else {str(told)})
    if met is not None:
        selector, why = met
        details.told.pop("identity", None)
        details.say("identity", [selector], why)
    return details


def _with_filter(kind: Kind, entries: Entries) -> str:
    """How records are selected that have a path at all."""
    each = entries.table.each
    own = [str(source.piece["at"]) for source in entries.sources if source.is_own and "at" in source.piece]
    if not _lacks_some(entries) or not own:
        return each
    if entries.only is not None:
        return _of_one_kind(each, own[-1], *entries.only, is_xml=kind.is_xml)
    if entries.frames is not None and (kind.is_xml or each.endswith("[*]")):
        return _of_sequences(each, own[-1], is_xml=kind.is_xml, frames=entries.frames)
    if kind.is_xml:
        return f"{each}[{own[-1]}]" if own[-1] != "." else f"{each}[text()]"
    if (
        kind.syntax in ("json", "json-lines", "yaml", "toml", "plist")
        and each.endswith("[*]")
        and own[-1] not in ("$",)
    ):
        path = own[-1][1:] if own[-1].startswith("$") else f".{own[-1]}"
        values = (field.values for field in entries.table if field.selector == own[-1])
        found = [value for each in values for value in each]
        has_empty, lacks = "" in found, None in found
        return f"{each[:-3]}[?@{path} != '']" if has_empty and not lacks else f"{each[:-3]}[?@{path}]"
    return each


def _of_one_kind(each: str, path: str, selector: str, has_value: bool, *, is_xml: bool) -> str:
    """Only records with a value in a field, or only those without one."""
    if is_xml:
        return f"{each}[{path} and {selector if has_value else f'not({selector})'}]"
    first, second = (name[1:] if name.startswith("$") else f".{name}" for name in (path, selector))
    return f"{each[:-3]}[?@{first} && {'' if has_value else '!'}@{second}]"


def _of_sequences(each: str, selector: str, *, is_xml: bool, frames: bool) -> str:
    """Only records whose path has a field for a number, or only the others."""
    if is_xml:
        has_field = " or ".join(f"contains({selector}, '{mark}')" for mark in ("%", "#", "*"))
        return f"{each}[{has_field if frames else f'not({has_field})'}]"
    path = selector[1:] if selector.startswith("$") else f".{selector}"
    found = f"search(@{path}, '%0?[0-9]*d|#|[*]')"
    return f"{each[:-3]}[?{found if frames else f'@{path} && !{found}'}]"


def _lacks_some(entries: Entries) -> bool:
    return not all(entries.recorded)


def _is_told(entries: Entries, more: str) -> str:
    column = str(entries.sources[-1].piece.get("column") or next(iter(entries.fields), ""))
    if entries.sources[-1].piece.get("holds") == "extension":
        column = str(entries.sources[-2].piece.get("column"))
    return f"\"{column}\" <> ''" + (f' AND "{column}"{more}' if more else "")


def _say_remote(details: Details, entries: Entries, found: set[int], *, in_database: bool) -> None:
    rows = [row for row, text in zip(entries.rows, entries.recorded, strict=True) if text]
    recorded = [text for text in entries.recorded if text]
    remote = remote_of(list(entries.table), rows, recorded, found, in_database=in_database)
    if remote is not None:
        details.say(
            *remote, "these have no file here, and all others of another kind do" if remote[0] == "remote" else ""
        )


def _evidence(entries: Entries) -> list[str]:
    tried = entries.explained
    what = "file or folder" if tried.files and tried.folders else "folder" if tried.to_folders else "file"
    if entries.is_absent:
        lines = [f"{tried.local:,} different paths by their form; none of them leads to anything that is here"]
    else:
        lines = [f"{tried.found:,} of {tried.local:,} different paths looked at lead to a {what} that exists"]
    if tried.not_here:
        lines.append(f"{tried.not_here:,} are on a volume that is not here")
    if tried.remote:
        lines.append(f"{tried.remote:,} are addresses of something elsewhere")
    return [*lines, *(f"also possible: {each}" for each in entries.rivals)]


def _drafted(kind: Kind, entries: Entries, holding: str) -> DraftedEntries:
    pieces = [
        f"{each['table']}.{each['column']}"
        if "table" in each
        else str(each.get("column") or each.get("at") or each.get("made-of"))
        for each in entries.pieces
    ]
    tried = entries.explained
    first = str(kind.files[0].path)
    at = first if kind.number <= 1 else f"{kind.number:,} documents such as {first}"
    return DraftedEntries(
        holding,
        at,
        kind.syntax,
        entries.table.each,
        " + ".join(pieces),
        str(tried.manner.spelling),
        tried.found,
        tried.local,
    )


def _draft_groups(kind: Kind, entries: Entries, key: str, drafted: Drafted, *, is_primary: bool) -> None:
    table, pieces = entries.table, {str(source.piece["table"]) for source in entries.sources if not source.is_own}
    found = (
        groups_in_database(kind.database, table, key, pieces)
        if kind.database is not None
        else groups_in_text(kind.tables, table, key, is_xml=kind.is_xml)
        if kind.is_xml or kind.syntax in ("json", "json-lines", "plist", "yaml", "toml")
        else ()
    )
    grouped = set[str]()
    for told, why in found:
        drafted.blocks.append(Block("[[holding.groups]]", dict(told), [why]))
        members = told["members"]
        grouped |= {str(told.get("table")), str(members.get("table")) if isinstance(members, dict) else ""}
    if kind.database is not None and is_primary:
        drafted.blocks += merging_blocks(kind.database, table, key, {*pieces, *grouped})


def note_settings(kinds: Iterable[tuple[Kind, Sequence[Entries]]], drafted: Drafted, judge: Judge) -> None:
    """Folders that a setting names, from which relative paths of other documents may start."""
    for kind, found in kinds:
        if kind.syntax not in ("ini", "properties"):
            continue
        for each in found:
            if "values" in each.table.more and each.explained.to_folders:
                names = each.table.fields["name"].values
                for row, _, path in leads_of(each, judge):
                    drafted.settings[path] = id(kind), str(names[row])
