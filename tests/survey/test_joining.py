"""Entries and files joined: the same as looking at each by itself."""

from __future__ import annotations

from contextlib import closing

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_crate.machines import FileFacts
from zesty_crate.survey import EntryRow, HoldingRow, State, SurveyStore, new_file
from zesty_crate.survey.joining import join_entries, pending_entries

KEYS = ["/a", "/b", "/caf\u00e9", "/d\udce9", ""]
HOLDINGS = {"t/clips": ("media", ""), "t/masks": ("media", "proxy"), "t/list": ("catalog", "")}
FILES = st.lists(
    st.tuples(
        st.sampled_from(sorted(HOLDINGS)),
        st.sampled_from(["own", "factory"]),
        st.sampled_from(KEYS[:-1]),
        st.sampled_from(["file", "folder"]),
        st.integers(1, 2),
        st.sampled_from(["", "it may not be read"]),
    ),
    max_size=6,
)
ENTRIES = st.lists(st.tuples(st.sampled_from(KEYS), st.sampled_from([None, 1, 2]), st.booleans()), max_size=6)


@settings(deadline=None)
@given(FILES, ENTRIES, st.sets(st.sampled_from(KEYS[:-1]), max_size=2), st.booleans())
def test_a_join_says_what_looking_at_each_would(
    tmp_path_factory: pytest.TempPathFactory,
    files: list[tuple[str, str, str, str, int, str]],
    entries: list[tuple[str, int | None, bool]],
    beside: set[str],
    folds: bool,
) -> None:
    if not folds:  # then no two files are of one key
        files = list({file[2]: file for file in files}.values())
    with closing(SurveyStore.create(tmp_path_factory.mktemp("join") / "survey.db")) as store:
        fill(store, files, entries, beside)
        join_entries(store, folds=folds)
        pending = [row for some in pending_entries(store, 2) for row, *_ in some]
        unnamed = [row[0] for row in store.database.execute("SELECT file FROM unnamed ORDER BY 1")]
    keys = [file[2] for file in files]
    fine = {(key, size) for _, _, key, kind, size, fault in files if kind == "file" and not fault}
    fine = {(key, size) for key, size in fine if keys.count(key) == 1}
    sizes = {(key, None) for key, _ in fine} | fine
    assert pending == [n for n, (key, size, judged) in enumerate(entries, 1) if not judged and (key, size) not in sizes]
    named = {entry[0] for entry in entries}
    assert unnamed == [
        n
        for n, (holding, role, key, kind, *_) in enumerate(files, 1)
        if (kind, role, holding) == ("file", "own", "t/clips")
        and key not in named | beside
        and any(other[0] == holding and other[2] in named for other in files)
    ]


def fill(
    store: SurveyStore,
    files: list[tuple[str, str, str, str, int, str]],
    entries: list[tuple[str, int | None, bool]],
    beside: set[str],
) -> None:
    for name, (kind, media_class) in HOLDINGS.items():
        store.add_holding(HoldingRow(name, "t", "T", kind, media_class, "/", present=True, swept=False))
    for holding, role, key, kind, length, fault in files:
        store.add_file(new_file(holding, role, key, key, FileFacts(kind, length, 0, 0), fault))
    for key, size, judged in entries:
        store.add_entries([EntryRow("t/list", key, "", key, key, key, State.FOUND, "", size, judged=judged)])
    for key in beside:
        store.add_belonging("t/list", "1", key)
    store.index("file_by_key")
