"""Two texts of one program become one, whatever their syntax: through the installed command, byte for byte."""

from __future__ import annotations

import configparser
import csv
import io
import json
import plistlib
import re
import tomllib
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import pytest
import yaml
from lxml import etree, html

from conftest import Zesty
from support.docs import merging_recipes
from support.moves import picture
from support.trip import HEAD, Trip, document

CARRIED = "C:\\Users\\Odile\\Music\\Lamps\\"
THERE = "/Users/odile/Music/Lamps/"
Rows = list[tuple[str, str, str, str]]  # key, file name, stars, note


def one_rating_less(text: str) -> str:
    """What a person changes on the new computer: of the owl, the 4 becomes a 2."""
    start = text.index("owl.wav")
    place = text.index("4", start) if "4" in text[start : start + 90] else text.rindex("4", 0, start)
    return f"{text[:place]}2{text[place + 1 :]}"


def in_utf_8(text: str) -> bytes:
    return text.encode()


def from_utf_8(content: bytes) -> str:
    return content.decode()


@dataclass(frozen=True)
class Kind:
    """One syntax: its guide, how a catalog of it is written, and how somebody else reads it; both as a text."""

    name: str
    guide: str
    write: Callable[[str, Rows, dict[str, list[str]]], str]
    read: Callable[[str], tuple[list[tuple[str, str]], dict[str, list[str]]]]
    has_groups: bool = False
    has_annotations: bool = True
    packed: Callable[[str], bytes] = in_utf_8
    unpacked: Callable[[bytes], str] = from_utf_8

    def put(self, path: Path, text: str) -> None:
        path.write_bytes(self.packed(text))

    def text(self, path: Path) -> str:
        return self.unpacked(path.read_bytes())


def write_xml(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    sounds = "\n".join(
        f'    <sound id="{key}" path="{folder}{name}"' + (f' stars="{stars}"' if stars else "") + "><x/></sound>"
        for key, name, stars, _ in rows
    )
    groups = "\n".join(
        f'    <list name="{name}">' + "".join(f'<item of="{key}"/>' for key in keys) + "</list>"
        for name, keys in lists.items()
    )
    return f'<?xml version="1.0"?>\n<scenes>\n  <!-- é -->\n{sounds}\n  <lists>\n{groups}\n  </lists>\n</scenes>\n'


def read_xml(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    root = etree.fromstring(text.encode())
    paths = {str(each.get("id")): str(each.get("path")) for each in root.iter("sound")}
    sounds = [(str(each.get("path")), str(each.get("stars") or "")) for each in root.iter("sound")]
    lists = {str(g.get("name")): [paths[str(i.get("of"))] for i in g.iter("item")] for g in root.iter("list")}
    return sounds, lists


def write_counted(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    """The same with counts, and with marks that hang on sounds."""
    text = write_xml(folder, rows, lists).replace("<scenes>", f'<scenes sounds="{len(rows)}" next="{next_of(rows)}">')
    for name, keys in lists.items():
        text = text.replace(f'name="{name}"', f'name="{name}" items="{len(keys)}"')
    marks = "".join(f'  <mark on="{key}" at="{name}"/>\n' for key, name, _, _ in rows)
    return text.replace("</scenes>", f"{marks}</scenes>")


def next_of(rows: Rows) -> int:
    return max(int(key) for key, _, _, _ in rows) + 1


def read_counted(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    root = etree.fromstring(text.encode())
    sounds = {str(each.get("id")): str(each.get("path")) for each in root.iter("sound")}
    assert root.get("sounds") == str(len(sounds))
    assert root.get("next") == str(max(map(int, sounds)) + 1)
    assert [each.get("items") for each in root.iter("list")] == [str(len(each)) for each in root.iter("list")]
    marks = sorted((str(each.get("on")), str(each.get("at"))) for each in root.iter("mark"))
    assert marks == sorted((key, path.replace("\\", "/").rpartition("/")[2]) for key, path in sounds.items())
    return read_xml(text)


def write_json(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    sounds = [
        {"id": int(key), "path": folder + name, **({"stars": int(stars)} if stars else {})}
        for key, name, stars, _ in rows
    ]
    groups = [{"name": name, "items": [int(key) for key in keys]} for name, keys in lists.items()]
    return json.dumps({"version": 3, "sounds": sounds, "lists": groups}, indent=2) + "\n"


def read_json(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = json.loads(text)
    paths = {each["id"]: each["path"] for each in found["sounds"]}
    sounds = [(each["path"], str(each.get("stars", ""))) for each in found["sounds"]]
    return sounds, {each["name"]: [paths[key] for key in each["items"]] for each in found["lists"]}


def write_lines(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    return "# lamps\n" + "".join(f"# about {name}\nsound={folder}{name}\n" for _, name, _, _ in rows)


def read_lines(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    lines = text.splitlines()
    assert lines[0] == "# lamps"
    for comment, line in zip(lines[1::2], lines[2::2], strict=True):
        assert comment.removeprefix("# about ") == line.replace("\\", "/").rpartition("/")[2]
    return [(line.removeprefix("sound="), "") for line in lines[2::2]], {}


def write_csv(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    head = "id,path,stars,note\n"
    return head + "".join(f'{key},{folder}{name},{stars},"{note}"\n' for key, name, stars, note in rows)


def read_csv(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    return [(row["path"], row["stars"]) for row in csv.DictReader(text.splitlines())], {}


def write_members(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    """Objects by their names, which are their keys."""
    found = json.loads(write_json(folder, rows, lists))
    found["sounds"] = {f"{each['id']}": each for each in found["sounds"]}
    return json.dumps(found, indent=1)


def read_members(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = json.loads(text, object_pairs_hook=without_doubles)
    assert all(name == str(each["id"]) for name, each in found["sounds"].items())
    return read_json(json.dumps({**found, "sounds": list(found["sounds"].values())}))


def without_doubles(pairs: list[tuple[str, object]]) -> dict[str, object]:
    assert len(dict(pairs)) == len(pairs)
    return dict(pairs)


def as_plist(text: str) -> str:
    return plistlib.dumps(json.loads(text), sort_keys=False).decode()


def from_plist(text: str) -> str:
    return json.dumps(plistlib.loads(text.encode()))


def write_ini(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    sections = [
        f"[Sound {key}]\npath={folder}{name}\n" + (f"stars={stars}\n" if stars else "") for key, name, stars, _ in rows
    ]
    return "; lamps\n[General]\nversion=3\n\n" + "\n".join(sections)


def read_ini(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = configparser.ConfigParser(interpolation=None)
    found.read_string(text)
    assert found["General"] == {"version": "3"}
    sections = [found[each] for each in found.sections() if each.startswith("Sound ")]
    return [(each["path"], each.get("stars", "")) for each in sections], {}


def write_values(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    """Values by numbered names in one section, after which another one comes."""
    lines = "".join(f"file{key}={folder}{name}\n" for key, name, _, _ in rows)
    return f"[sounds]\n{lines}\n[window]\nwidth=3\n"


def read_values(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = configparser.ConfigParser(interpolation=None)
    found.read_string(text)
    assert found["window"] == {"width": "3"}
    return [(path, "") for path in found["sounds"].values()], {}


def write_registry(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    head = "Windows Registry Editor Version 5.00\r\n\r\n"
    keys = (
        f"[HKEY_CURRENT_USER\\Software\\Lamps\\{key}]\r\n"
        + '"path"="{}"\r\n'.format((folder + name).replace("\\", "\\\\"))
        + (f'"stars"="{stars}"\r\n' if stars else "")
        for key, name, stars, _ in rows
    )
    return head + "\r\n".join(keys)


def read_registry(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    head, *keys = re.split(r"(?m)^\[HKEY_CURRENT_USER\\Software\\Lamps\\\d+\]\r\n", text)
    assert head == "Windows Registry Editor Version 5.00\r\n\r\n"
    values = [dict(re.findall(r'"(\w+)"="(.*)"\r\n', key)) for key in keys]
    return [(each["path"].replace("\\\\", "\\"), each.get("stars", "")) for each in values], {}


def zipped(text: str) -> bytes:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("first.txt", "one")
        archive.writestr("scenes.xml", text)
        archive.writestr("last.txt", "two")
    return file.getvalue()


def unzipped(content: bytes) -> str:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert archive.namelist() == ["first.txt", "scenes.xml", "last.txt"]
        assert archive.testzip() is None
        assert (archive.read("first.txt"), archive.read("last.txt")) == (b"one", b"two")
        return archive.read("scenes.xml").decode()


def write_json_lines(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    found = json.loads(write_json(folder, rows, lists))
    return "".join(f"{json.dumps(each)}\n" for each in (*found["sounds"], *found["lists"]))


def read_json_lines(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = [json.loads(line) for line in text.split("\n") if line]
    sounds = [each for each in found if "path" in each]
    return read_json(json.dumps({"sounds": sounds, "lists": [each for each in found if "items" in each]}))


def as_yaml(text: str, *, by_brackets: bool = False) -> str:
    """As a program would write it, and the comments of a person."""
    told = yaml.safe_dump(json.loads(text), sort_keys=False, allow_unicode=True, default_flow_style=by_brackets or None)
    return f"# lamps: é\n{told}" if by_brackets else f"# lamps: é\n{told}# the end\n"


def from_yaml(text: str) -> str:
    return json.dumps(yaml.safe_load(text))


def toml_of(name: str, value: object) -> str:
    return f"{name} = {json.dumps(value, ensure_ascii=False).replace(chr(127), '')}\n"


def write_toml(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    """Each sound with a table of its own, and with one inside."""
    found = json.loads(write_json(folder, rows, lists))
    parts = [
        f"[[sounds]] # a sound\n{''.join(toml_of(*pair) for pair in each.items())}[sounds.more]\nof = '[x]'\n"
        for each in found["sounds"]
    ]
    parts += [f"[[lists]]\n{''.join(toml_of(*pair) for pair in each.items())}" for each in found["lists"]]
    return "version = 3 # é\n\n" + "\n".join(parts)


def read_toml(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = tomllib.loads(text)
    assert all(each["more"] == {"of": "[x]"} for each in found["sounds"])
    return read_json(json.dumps({"lists": [], **found}))


def write_toml_members(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    """Tables by their names, which are their keys, with tables below them."""
    text = write_toml(folder, rows, lists)
    for key, _, _, _ in rows:
        text = text.replace("[[sounds]] #", f"[sounds.{key}] #", 1).replace("[sounds.more]", f"[sounds.{key}.more]", 1)
    return text


def read_toml_members(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    found = tomllib.loads(text)
    assert all(name == str(each["id"]) for name, each in found["sounds"].items())
    assert all(each["more"] == {"of": "[x]"} for each in found["sounds"].values())
    return read_json(json.dumps({"lists": [], **found, "sounds": list(found["sounds"].values())}))


def write_toml_lists(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    """Everything between brackets."""
    found = json.loads(write_json(folder, rows, lists))
    return "version = 3\n" + "".join(
        f"{name} = [\n"
        + "".join(
            "  { " + ", ".join(toml_of(*pair).strip() for pair in each.items()) + " }, # é\n" for each in found[name]
        )
        + "]\n"
        for name in ("sounds", "lists")
    )


def write_properties(folder: str, rows: Rows, _: dict[str, list[str]]) -> str:
    def escaped(text: str) -> str:
        return "".join(
            each
            if " " < each < "\x7f" and each not in "\\=:#!"
            else f"\\{each}"
            if each in "\\=:#! "
            else in_utf_16(each)
            for each in text
        )

    return "! lamps\n" + "".join(f"sound.{key} = {escaped(folder + name)}\n" for key, name, _, _ in rows)


def in_utf_16(character: str) -> str:
    return "".join(f"\\u{unit:04x}" for unit in memoryview(character.encode("utf-16-le")).cast("H"))


def read_properties(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    head, *lines = text.splitlines()
    assert head == "! lamps"
    raw = [re.fullmatch(r"sound\.\d+ = (.*)", line) for line in lines]
    units = re.compile(r"\\u([0-9a-f]{4})|\\(.)|(.)")
    texts = [
        "".join(chr(int(hexa, 16)) if hexa else other or plain for hexa, other, plain in units.findall(each[1]))
        for each in raw
        if each
    ]
    return [(each.encode("utf-16-le", "surrogatepass").decode("utf-16-le"), "") for each in texts], {}


def write_html(folder: str, rows: Rows, lists: dict[str, list[str]]) -> str:
    sounds = "".join(
        f'<p><audio id="{key}" src="{folder}{name}"' + (f" data-stars={stars}" if stars else "") + "></audio>\n"
        for key, name, stars, _ in rows
    )
    groups = "".join(
        f'<ol title="{name}">' + "".join(f'<li value="{key}"></li>' for key in keys) + "</ol>\n"
        for name, keys in lists.items()
    )
    return f"<!doctype html>\n<title>Lamps</title>\n<div>{sounds}</div>\n<section>\n{groups}</section>\n"


def read_html(text: str) -> tuple[list[tuple[str, str]], dict[str, list[str]]]:
    root = html.document_fromstring(text)
    paths = {str(each.get("id")): str(each.get("src")) for each in root.iter("audio")}
    sounds = [(str(each.get("src")), str(each.get("data-stars") or "")) for each in root.iter("audio")]
    return sounds, {str(g.get("title")): [paths[str(i.get("value"))] for i in g.iter("li")] for g in root.iter("ol")}


def as_records(text: str, outer: str = "RIFF", order: Literal["little", "big"] = "little") -> bytes:
    """A file in the manner of RIFF or IFF: sounds with a key and a path, and what stands around them."""

    def record(tag: str, payload: bytes) -> bytes:
        return tag.encode() + len(payload).to_bytes(4, order) + payload + b"\0" * (len(payload) % 2)

    inner = "LIST" if outer == "RIFF" else "FORM"
    sounds = b"".join(
        record(inner, b"snd " + record("key ", str(each["id"]).encode()) + record("path", each["path"].encode()))
        for each in json.loads(text)["sounds"]
    )
    return record(outer, b"lamp" + record("head", b"odd") + record(inner, b"snds" + sounds) + record("tail", b"\1\2\3"))


def from_records(content: bytes, order: Literal["little", "big"] = "little") -> str:
    def records(inside: bytes) -> list[tuple[bytes, bytes]]:
        found, at = [], 0
        while at < len(inside):
            end = at + 8 + int.from_bytes(inside[at + 4 : at + 8], order)
            assert end <= len(inside)
            found.append((inside[at : at + 4], inside[at + 8 : end]))
            at = end + end % 2
        return found

    ((_, whole),) = records(content)
    (head, (_, sounds), tail) = records(whole[4:])
    assert (head, tail) == ((b"head", b"odd"), (b"tail", b"\1\2\3"))
    told = [dict(records(each[4:])) for _, each in records(sounds[4:])]
    rows = [{"id": int(each[b"key "]), "path": each[b"path"].decode()} for each in told]
    return json.dumps({"sounds": rows, "lists": []}, indent=1)


def as_iff(text: str) -> bytes:
    return as_records(text, "FORM", "big")


def from_iff(content: bytes) -> str:
    return from_records(content, "big")


IN_A_TREE = """at = "{app-data}/Lamps/scenes.txt"
syntax = "json"
[[holding.entries]]
each = "$.sounds[*]"
key = "id"
path = [{ at = "path" }]
annotations = ["stars"]
[[holding.groups]]
each = "$.lists[*]"
name = "name"
members = { each = "items[*]", entry = "$" }
"""
COUNTED = 'at = "{app-data}/Lamps/scenes.txt"\nsyntax = "xml"\n' + merging_recipes()[1]
SECTIONS = """at = "{app-data}/Lamps/scenes.txt"
syntax = "ini"
[[holding.entries]]
each = 'sound \\d+'
path = [{ at = "path" }]
annotations = ["stars"]
"""

RECORDS = """at = "{app-data}/Lamps/scenes.txt"
syntax = "tagged"
records = { form = "riff" }
[[holding.entries]]
each = "//LIST[@form='snd']"
key = "key"
path = [{ at = "path" }]
"""
KINDS_IN_XML = """at = "{app-data}/Lamps/scenes.txt"
syntax = "xml"
[[holding.entries]]
each = "//sound"
key = "@id"
path = [{ at = "@path" }]
annotations = ["@stars"]
[[holding.groups]]
each = "//list"
name = "@name"
members = { each = "item", entry = "@of" }
"""

KINDS = (
    Kind(
        "xml",
        KINDS_IN_XML,
        write_xml,
        read_xml,
        has_groups=True,
    ),
    Kind(
        "json",
        IN_A_TREE,
        write_json,
        read_json,
        has_groups=True,
    ),
    Kind(
        "lines",
        """at = "{app-data}/Lamps/scenes.txt"
syntax = "lines"
comment = "#"
[[holding.entries]]
each = "sound=(?P<path>.*)"
path = [{ at = "path" }]
""",
        write_lines,
        read_lines,
        has_annotations=False,
    ),
    Kind(
        "delimited",
        """at = "{app-data}/Lamps/scenes.txt"
syntax = "delimited"
[[holding.entries]]
key = "id"
path = [{ at = "path" }]
annotations = ["stars"]
""",
        write_csv,
        read_csv,
    ),
    Kind(
        "counted",
        COUNTED,
        write_counted,
        read_counted,
        has_groups=True,
    ),
    Kind("members", IN_A_TREE.replace("sounds[*]", "sounds.*"), write_members, read_members, has_groups=True),
    Kind(
        "plist",
        IN_A_TREE.replace('"json"', '"plist"'),
        lambda *told: as_plist(write_json(*told)),
        lambda text: read_json(from_plist(text)),
        has_groups=True,
    ),
    Kind(
        "plist-members",
        IN_A_TREE.replace('"json"', '"plist"').replace("sounds[*]", "sounds.*"),
        lambda *told: as_plist(write_members(*told)),
        lambda text: read_members(from_plist(text)),
        has_groups=True,
    ),
    Kind(
        "plist-binary",
        IN_A_TREE.replace('"json"', '"plist"'),
        write_json,
        read_json,
        has_groups=True,
        packed=lambda text: plistlib.dumps(json.loads(text), fmt=plistlib.FMT_BINARY),
        unpacked=lambda content: json.dumps(plistlib.loads(content), indent=1),
    ),
    Kind("ini", SECTIONS, write_ini, read_ini),
    Kind(
        "ini-values",
        SECTIONS.partition("each")[0]
        + """each = "sounds"
values = '.*\\.wav'
path = [{ at = "value" }]
""",
        write_values,
        read_values,
        has_annotations=False,
    ),
    Kind(
        "registry",
        SECTIONS.replace('"ini"', '"reg"').replace("sound ", "HKEY_CURRENT_USER\\\\Software\\\\Lamps\\\\"),
        write_registry,
        read_registry,
        packed=lambda text: b"\xff\xfe" + text.encode("utf-16-le"),
        unpacked=lambda content: content.decode("utf-16"),
    ),
    Kind(
        "json-lines",
        IN_A_TREE.replace('"json"', '"json-lines"')
        .replace("$.sounds[*]", "$[?@.path]")
        .replace("$.lists[*]", "$[?@.items]"),
        write_json_lines,
        read_json_lines,
        has_groups=True,
    ),
    Kind(
        "yaml",
        IN_A_TREE.replace('"json"', '"yaml"'),
        lambda *told: as_yaml(write_json(*told)),
        lambda text: read_json(from_yaml(text)),
        has_groups=True,
    ),
    Kind(
        "yaml-brackets",
        IN_A_TREE.replace('"json"', '"yaml"'),
        lambda *told: as_yaml(write_json(*told), by_brackets=True),
        lambda text: read_json(from_yaml(text)),
        has_groups=True,
    ),
    Kind(
        "yaml-members",
        IN_A_TREE.replace('"json"', '"yaml"').replace("sounds[*]", "sounds.*"),
        lambda *told: as_yaml(write_members(*told)),
        lambda text: read_members(from_yaml(text)),
        has_groups=True,
    ),
    Kind("toml", IN_A_TREE.replace('"json"', '"toml"'), write_toml, read_toml, has_groups=True),
    Kind(
        "toml-members",
        IN_A_TREE.replace('"json"', '"toml"').replace("sounds[*]", "sounds.*"),
        write_toml_members,
        read_toml_members,
        has_groups=True,
    ),
    Kind(
        "toml-lists",
        IN_A_TREE.replace('"json"', '"toml"'),
        write_toml_lists,
        lambda text: read_json(json.dumps(tomllib.loads(text))),
        has_groups=True,
    ),
    Kind(
        "properties",
        SECTIONS.partition("each")[0].replace('"ini"', '"properties"')
        + """each = '.*'
values = '.*\\.wav'
path = [{ at = "value" }]
""",
        write_properties,
        read_properties,
        has_annotations=False,
    ),
    Kind(
        "html",
        KINDS_IN_XML.replace('"xml"', '"html"')
        .replace("//sound", "//audio")
        .replace("@path", "@src")
        .replace("@stars", "@data-stars")
        .replace("//list", "//ol")
        .replace("@name", "@title")
        .replace('"item"', '"li"')
        .replace("@of", "@value"),
        write_html,
        read_html,
        has_groups=True,
    ),
    Kind("riff", RECORDS, write_json, read_json, has_annotations=False, packed=as_records, unpacked=from_records),
    Kind(
        "iff",
        RECORDS.replace("riff", "iff").replace("LIST", "FORM"),
        write_json,
        read_json,
        has_annotations=False,
        packed=as_iff,
        unpacked=from_iff,
    ),
    Kind(
        "zipped",
        """at = "{app-data}/Lamps/scenes.txt"
syntax = "xml"
inside = "scenes.xml"
[[holding.entries]]
each = "//sound"
key = "@id"
path = [{ at = "@path" }]
annotations = ["@stars"]
[[holding.groups]]
each = "//list"
name = "@name"
members = { each = "item", entry = "@of" }
""",
        write_xml,
        read_xml,
        has_groups=True,
        packed=zipped,
        unpacked=unzipped,
    ),
)


@pytest.fixture(params=KINDS, ids=[each.name for each in KINDS])
def kind(request: pytest.FixtureRequest) -> Kind:
    return request.param  # type: ignore[no-any-return]


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty, kind: Kind) -> Trip:
    """The old computer has kiln, owl and gale, the new one owl and mill; keys of one are taken by others."""
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + kind.guide)
    for name in ("owl.wav", "kiln.wav", "gale.wav"):
        trip.sound(name)
    library = trip.new_home / "Music/Lamps"
    library.mkdir(parents=True)
    for name in ("owl.wav", "mill.wav"):
        (library / name).write_bytes(name.encode())
    carried = [("1", "kiln.wav", "5", "hot, dry"), ("2", "owl.wav", "4", ""), ("7", "gale.wav", "", "")]
    lists = {"Night": ["2", "1"], "Weather": ["7", "1"]}
    old = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    kind.put(old, kind.write(CARRIED, carried, lists))
    there = place(trip)
    there.parent.mkdir(parents=True)
    rows = [("1", "owl.wav", "", ""), ("2", "mill.wav", "2", "turns")]
    kind.put(there, kind.write(THERE, rows, {"Night": ["2"]}))
    return trip


def place(trip: Trip) -> Path:
    return trip.new_home / "Library/Application Support/Lamps/scenes.txt"


def test_carried_records_are_spliced_in_and_all_can_be_undone(trip: Trip, kind: Kind) -> None:
    start, before = picture(trip.root / "shed"), kind.text(place(trip))
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge", "--json")
    assert planned.returncode == 0, planned.stdout
    (conflict,) = document(planned)["conflicts"]
    assert (conflict["merge"]["new"], conflict["merge"]["same"]) == (2, 1)
    assert trip.unpack().returncode == 0
    relinked = trip.relink()
    assert relinked.returncode == 0, relinked.stdout
    text = kind.text(place(trip))
    stars = "4" if kind.has_annotations else ""
    sounds, lists = kind.read(text)
    assert sounds == [
        (f"{THERE}owl.wav", stars),
        (f"{THERE}mill.wav", "2" if kind.has_annotations else ""),
        (f"{THERE}kiln.wav", "5" if kind.has_annotations else ""),
        (f"{THERE}gale.wav", ""),
    ]
    if kind.has_groups:
        assert lists == {
            "Night": [f"{THERE}{name}.wav" for name in ("mill", "owl", "kiln")],
            "Weather": [f"{THERE}{name}.wav" for name in ("gale", "kiln")],
        }
    for line in before.splitlines()[:3]:
        assert line.rstrip("]},/>")[:7] in text
    checked = trip.check()
    assert checked.returncode == 0, checked.stdout
    assert trip.relink().returncode == 0
    assert kind.text(place(trip)) == text
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start


def test_values_that_differ_are_decided(trip: Trip, kind: Kind) -> None:
    if not kind.has_annotations:
        pytest.skip("it has none")
    old = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    carried = [("1", "mill.wav", "5", "")]
    trip.sound("mill.wav")
    kind.put(old, kind.write(CARRIED, carried, {"Night": []}))
    assert trip.survey().returncode in (0, 1)
    assert trip.pack().returncode == 0
    assert trip.plan("--decide", "merge").returncode == 3
    assert trip.plan("--values", "bring-in").returncode == 0
    assert trip.unpack().returncode == trip.relink().returncode == 0
    sounds, _ = kind.read(kind.text(place(trip)))
    assert sounds == [(f"{THERE}owl.wav", ""), (f"{THERE}mill.wav", "5")]
    assert trip.check().returncode == 0


def test_a_second_trip_has_no_false_conflicts(trip: Trip, kind: Kind) -> None:
    if not kind.has_annotations:
        pytest.skip("it has none")
    assert trip.survey().returncode == trip.pack().returncode == 0
    done = trip.run("merge", trip.crate, "--to", trip.new, "--values", "keep", "--yes")
    assert done.returncode == 0, done.stdout
    old = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    trip.sound("fog.wav")
    rows = [("1", "kiln.wav", "1", "hot, dry"), ("2", "owl.wav", "4", ""), ("7", "gale.wav", "", "")]
    rows.append(("9", "fog.wav", "3", ""))
    kind.put(old, kind.write(CARRIED, rows, {"Night": ["2", "1"], "Weather": ["7", "1", "9"]}))
    there = place(trip)
    kind.put(there, one_rating_less(kind.text(there)))
    trip.crate = trip.root / "second"
    assert trip.survey().returncode == trip.pack().returncode == 0
    done = trip.run("merge", trip.crate, "--to", trip.new, "--yes")
    assert done.returncode == 0, done.stdout
    sounds, lists = kind.read(kind.text(there))
    assert [(path.rpartition("/")[2], stars) for path, stars in sounds] == [
        ("owl.wav", "2"),
        ("mill.wav", "2"),
        ("kiln.wav", "1"),
        ("gale.wav", ""),
        ("fog.wav", "3"),
    ]
    if kind.has_groups:
        assert [path.rpartition("/")[2] for path in lists["Weather"]] == ["gale.wav", "kiln.wav", "fog.wav"]


@pytest.mark.parametrize("kind", [KINDS[0]], indirect=True)
@pytest.mark.parametrize(
    ("change", "why"),
    [
        ([('id="1"', 'id="a"')], "no new one can be written"),
        ([("scenes", "stage"), ("sound", "noise")], "no record of this kind"),
    ],
)
def test_what_cannot_be_spliced_is_undecided_and_says_why(trip: Trip, change: list[tuple[str, str]], why: str) -> None:
    there, old = place(trip), trip.home / "AppData/Roaming/Lamps/scenes.txt"
    for each in change:
        there.write_text(there.read_text("utf-8").replace(*each), encoding="utf-8")
    if why == "no new one can be written":
        old.write_text(old.read_text("utf-8").replace('id="1"', 'id="a"').replace('of="1"', 'of="a"'), encoding="utf-8")
    before = there.read_bytes()
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan(
        "--decide", f"{THERE.replace('Music/Lamps/', '')}Library/Application Support/Lamps/scenes.txt=merge"
    )
    assert planned.returncode == 3, planned.stdout
    assert why in " ".join(planned.stdout.split())
    assert there.read_bytes() == before
