"""Zesty Crate: move a person's media libraries and catalogs to a new computer, and prove that nothing was lost."""

__version__ = "0.1.0"
