"""The tables of a survey, and the number of their format: it changes whenever they do."""

from __future__ import annotations

FORMAT = 13

SCHEMA = """
CREATE TABLE about (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE holding (id TEXT UNIQUE, guide TEXT, title TEXT, kind TEXT, class TEXT, at TEXT, present INTEGER,
                      swept INTEGER);
CREATE TABLE file (id INTEGER PRIMARY KEY, holding TEXT, role TEXT, kind TEXT, path, key, size INTEGER,
                   modified_ns INTEGER, mode INTEGER, target, fault TEXT);
CREATE TABLE entry (holding TEXT, key TEXT, name DEFAULT '', recorded, path, path_key, state TEXT DEFAULT 'found',
                    why TEXT DEFAULT '', size INTEGER, content TEXT DEFAULT '', modified_ns INTEGER,
                    judged INTEGER DEFAULT 0, duration_s REAL, width INTEGER, height INTEGER);
CREATE TABLE annotation (holding TEXT, entry TEXT, name TEXT, value);
CREATE TABLE grp (holding TEXT, key TEXT, name, parent TEXT);
CREATE TABLE member (holding TEXT, grp TEXT, position INTEGER, entry TEXT);
CREATE TABLE belongs (holding TEXT, entry TEXT, key);
CREATE TABLE spot_check (holding TEXT, entry TEXT, path, named INTEGER, what TEXT, fault, slow INTEGER, duration_s REAL,
                       width INTEGER, height INTEGER);
CREATE TABLE duplicate (grp INTEGER, file INTEGER);
CREATE TABLE hard_link (grp INTEGER, file INTEGER);
CREATE TABLE unregistered (holding TEXT, path);
CREATE TABLE unnamed (file INTEGER PRIMARY KEY);
CREATE TABLE left_out (file INTEGER PRIMARY KEY, why TEXT);
CREATE TABLE bag (number INTEGER PRIMARY KEY, series TEXT, part INTEGER, name TEXT, root, earlier INTEGER,
                  closed INTEGER);
CREATE TABLE carried (file INTEGER PRIMARY KEY, payload TEXT NOT NULL, sha512 TEXT NOT NULL, size INTEGER NOT NULL,
                      modified_ns INTEGER NOT NULL, bag INTEGER NOT NULL);
CREATE TABLE segment (file INTEGER, first INTEGER, payload TEXT NOT NULL, sha512 TEXT NOT NULL, size INTEGER NOT NULL,
                      modified_ns INTEGER NOT NULL, bag INTEGER NOT NULL, PRIMARY KEY (file, first));
CREATE TABLE attribute (file INTEGER, name, value BLOB, PRIMARY KEY (file, name)) WITHOUT ROWID;
CREATE TABLE unchanged (file INTEGER PRIMARY KEY);
CREATE TABLE gone (holding TEXT, path, key);
CREATE TABLE uncovered (path, key, told, is_split INTEGER, files INTEGER, size INTEGER, kinds TEXT, fault TEXT);
CREATE TABLE document (id INTEGER PRIMARY KEY, holding TEXT, path, prefix TEXT, registry INTEGER,
                       verdict TEXT DEFAULT 'read', unread INTEGER DEFAULT 0, reasons TEXT DEFAULT '[]',
                       pointers INTEGER DEFAULT 0, stale INTEGER DEFAULT 0);
"""
TABLES = tuple(each.strip() for each in SCHEMA.split(";") if each.strip())  # the statements

# Made when a table is full, which is many times faster than keeping them right on the way.
INDEXES = {
    "file_by_key": "file (key, kind, size, fault)",
    "entry_by_key": "entry (holding, key)",
    "annotation_by_entry": "annotation (holding, entry)",
    "member_by_group": "member (holding, grp, position)",
    "belongs_by_entry": "belongs (holding, entry)",
}
