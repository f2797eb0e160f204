"""What other readers of each syntax find changed in a rewritten catalog: its path values, and nothing else."""

from __future__ import annotations

import configparser
import csv
import io
import json
import plistlib
import re
import sqlite3
import xml.etree.ElementTree as ET
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import pytest
import rdflib
import tomlkit
from ruamel.yaml import YAML

from support.catalog_bench import Bench, to_srv
from support.catalog_samples import SAMPLES, Sample

COMMENTS = re.compile(
    r"(?m)^// .*|/\* .*? \*/|(?<=,) // the .*$|,(?=\s*(?:/\* the last \*/\s*)?[\]}])"
)  # of one sample
ENCODINGS = {"lines": "cp1252", "delimited": "utf-16", "ini": "utf-16", "reg": "utf-16"}


def xml(content: bytes) -> Iterator[object]:
    for element in ET.fromstring(content).iter():
        yield from (element.tag, element.text, element.tail, *element.attrib.items())


def tree(value: object) -> Iterator[object]:
    if isinstance(value, dict):
        for key, each in value.items():
            yield key
            yield from tree(each)
    elif isinstance(value, list):
        for each in value:
            yield from tree(each)
    else:
        yield value


def sections(text: str) -> Iterator[object]:
    parser = configparser.RawConfigParser(strict=False, delimiters=("=",), comment_prefixes=(";",))
    parser.read_string(text[text.index("[") :])
    for name in parser.sections():
        yield name
        yield from (part for item in parser.items(name) for part in item)


def triples(content: bytes) -> Iterator[object]:
    graph = rdflib.Graph().parse(data=content, format="turtle", publicID="file:///")
    said = sorted(("" if isinstance(s, rdflib.BNode) else str(s), str(p), str(o)) for s, p, o in graph)
    return (term for row in said for term in row)


def rows(path: Path) -> Iterator[object]:
    with closing(sqlite3.connect(path)) as database:
        for (table,) in database.execute(
            "SELECT name FROM sqlite_schema WHERE type = 'table' ORDER BY name"
        ).fetchall():
            hidden = "id, file, size, stars, kind" if table == "clip" else "*"  # not what is made from the path
            yield from (value for row in database.execute(f'SELECT {hidden} FROM "{table}"') for value in row)


def values(sample: Sample, path: Path) -> list[object]:
    content = sample.taken_out(path.read_bytes())
    if sample.part["syntax"] == "sqlite":
        path.with_name("alone").write_bytes(content)
        return list(rows(path.with_name("alone")))
    encoding = str(sample.part.get("encoding", ENCODINGS.get(sample.syntax, "utf-8")))
    readers: dict[str, Callable[[], Iterator[object]]] = {
        "xml": lambda: xml(content),
        "json": lambda: tree(json.loads(COMMENTS.sub("", content.decode(json.detect_encoding(content))))),
        "json-lines": lambda: tree([json.loads(line) for line in content.splitlines() if line]),
        "yaml": lambda: tree(YAML(typ="safe", pure=True).load(content)),
        "toml": lambda: tree(tomlkit.parse(content).unwrap()),
        "plist": lambda: tree(plistlib.loads(content)),
        "lines": lambda: (part for line in content.decode(encoding).splitlines() for part in line.split("|")),
        "delimited": lambda: (
            v for row in csv.reader(io.StringIO(content.decode(encoding)), delimiter=";") for v in row
        ),
        "ini": lambda: sections(content.decode(encoding)),
        "reg": lambda: sections(content.decode(encoding)),
        "turtle": lambda: triples(content),
    }
    return list(readers[sample.syntax]())


@pytest.mark.parametrize("sample", SAMPLES, ids=[f"{sample.syntax}{number}" for number, sample in enumerate(SAMPLES)])
def test_another_reader_finds_only_paths_changed(tmp_path: Path, sample: Sample) -> None:
    bench = Bench(tmp_path, sample)
    moved, proof = bench.rewrite(bench.path, tmp_path / "moved", to_srv)
    before, after = Counter(values(sample, bench.path)), Counter(values(sample, moved))
    gone, come = list((before - after).elements()), list((after - before).elements())
    assert len(gone) == len(come) == proof.cells_changed == 3
    if sample.syntax != "reg":  # where some paths are in bytes
        assert sorted(to_srv(str(each)) for each in gone) == sorted(map(str, come))
