"""Zesty Crate: move a person's media libraries and catalogs to a new computer, and prove that nothing was lost."""

import logging

__version__ = "0.1.0"

logging.getLogger(__name__).addHandler(logging.NullHandler())
