"""Two holdings that look into one catalog: each is taken stock of, relinked and checked."""

from __future__ import annotations

from pathlib import Path

from support.moves import SmallMove, picture

GUIDE = """[guide]
id = "tally"
title = "Tally"
language = 1
[[holding]]
id = "list"
kind = "catalog"
at = "{documents}/tally.csv"
syntax = "delimited"
[[holding.entries]]
path = [{ at = "file" }]
key = "number"
[[holding]]
id = "covers"
kind = "catalog"
at = "{documents}/tally.csv"
syntax = "delimited"
[[holding.entries]]
path = [{ at = "cover" }]
key = "number"
[[holding]]
id = "media"
kind = "media"
at = "{music}/Tally"
"""


def test_both_are_relinked_checked_and_taken_back(tmp_path: Path) -> None:
    move = SmallMove(tmp_path)
    (move.demo.guides / "tally.toml").write_text(GUIDE)
    home, old = move.old_disks / "c/Users/Odile", "C:\\Users\\Odile\\Music\\Tally\\"
    (home / "Music/Tally").mkdir()
    for name in ("owl.wav", "owl.png", "moth.wav", "moth.png"):
        (home / "Music/Tally" / name).write_text(name)
    text = f"number,file,cover\r\n1,{old}owl.wav,{old}owl.png\r\n2,{old}moth.wav,{old}moth.png\r\n"
    (home / "Documents/tally.csv").write_bytes(text.encode())
    before = picture(move.new_disks)
    surveyed = {each.id: each for each in move.survey().holdings if each.guide == "tally"}
    assert [(each.present, each.totals["entries"]) for each in surveyed.values()] == [(True, 2), (True, 2), (True, 0)]
    move.pack()
    move.plan()
    move.unpack()
    for already in (False, True):
        ours = [each for each in move.relink().catalogs if each.holding.startswith("tally/")]
        assert [(each.cells, each.already) for each in ours] == [(0 if already else 2, already)] * 2
    (relinked,) = move.new_disks.rglob("tally.csv")
    assert relinked.read_bytes().decode() == text.replace(old, "/Users/odile.k/Music/Tally/")
    checked = {each.id: each.totals for each in move.check().holdings}
    assert checked["tally/list"]["found"] == checked["tally/covers"]["found"] == 2
    move.undo()
    assert picture(move.new_disks) == before
