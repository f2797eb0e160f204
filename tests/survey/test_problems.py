"""Problems by the thousand: the same as a list of them, in the order of their states."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_crate.survey import BY_WEIGHT, Problem, Problems, State

TEXTS = st.text(st.characters(codec="utf-8"), max_size=4) | st.just("owl\udcff")
PROBLEMS = st.lists(st.builds(Problem, TEXTS, TEXTS, st.sampled_from(State), TEXTS, TEXTS, st.booleans()), max_size=6)


@given(some=PROBLEMS, times=st.sampled_from([1, 300, 700]))
def test_they_are_as_a_list_of_them(some: list[Problem], times: int) -> None:
    listed = some * times
    held = Problems(listed)
    assert list(held) == listed
    assert (len(held), bool(held)) == (len(listed), bool(listed))
    assert held == listed
    assert held != [*listed, *some, Problem("", "", State.FOUND, "", "")]
    assert held[1:3] == listed[1:3]
    if listed:
        assert (held[0], held[-1]) == (listed[0], listed[-1])
    with pytest.raises(IndexError):
        held[len(listed)]
    assert Problems.of_blocks(json.loads(json.dumps(some)) for some in held.blocks()) == listed
    assert Problems.of_fields(each for block in held.blocks() for each in block) == listed
    assert list(Problems.by_state(listed, BY_WEIGHT)) == sorted(listed, key=lambda each: BY_WEIGHT.index(each.state))


@pytest.mark.parametrize(
    "wrong", [[], ["", "", "found", "", ""], ["", "", "else", "", "", True], ["", "", "found", "", 7, True]]
)
def test_what_is_no_problem_is_not_taken_for_one(wrong: list[object]) -> None:
    with pytest.raises(ValueError, match="not what a problem consists of"):
        Problems.of_blocks([[("", "", "found", "", "", True)], [wrong]])  # type: ignore[list-item]
