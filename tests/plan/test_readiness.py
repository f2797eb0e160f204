"""Versions by a guide's rule."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_crate.plan.readiness import fits

VERSIONS = st.lists(st.integers(0, 30), min_size=1, max_size=4)


@given(VERSIONS, VERSIONS)
def test_versions_are_compared_number_by_number(old: list[int], new: list[int]) -> None:
    texts = ".".join(map(str, old)), ".".join(map(str, new))
    length = max(len(old), len(new))
    padded = [each + [0] * (length - len(each)) for each in (old, new)]
    assert fits(*texts, "same-or-newer") == (padded[1] >= padded[0])
    assert fits(*texts, "same") == (padded[0] == padded[1])
    assert fits(*texts, "any")


@pytest.mark.parametrize(
    ("old", "new", "expected"),
    [
        ("3.2", "3.10", True),
        ("3.2.0", "3.2", True),
        ("2024a", "2024b", True),
        ("2024b", "2024a", False),
        ("1.0-beta2", "1.0-beta10", True),
        ("v5", "5.0", True),
    ],
)
def test_what_is_newer(old: str, new: str, *, expected: bool) -> None:
    assert fits(old, new, "same-or-newer") is expected
