"""Edits in steps: put on, taken back, and beside another's, on documents of any shape."""

import json

from hypothesis import assume, given
from hypothesis import strategies as st

from fairline.core.change import ABSENT, Step, difference, in_words, merge, put_value, value_at

LEAF = st.none() | st.booleans() | st.integers(0, 3) | st.sampled_from(["", "a", "b"])
NAMES = st.sampled_from(["a", "b", "c"])
DOCUMENTS = st.dictionaries(
    NAMES,
    LEAF
    | st.lists(st.dictionaries(NAMES, LEAF, min_size=1, max_size=2), max_size=3)
    | st.dictionaries(NAMES, LEAF, min_size=1, max_size=2),
    max_size=3,
)


@given(DOCUMENTS, DOCUMENTS)
def test_an_edit_leads_there_and_back(before, after):
    steps = difference(before, after)
    assert merge(before, steps, before) == (after, [])
    back = [step.back for step in reversed(steps)]
    assert merge(after, back, after) == (before, [])
    kept = json.loads(json.dumps([step.stored() for step in steps]))
    assert [Step.read(one) for one in kept] == steps


@given(DOCUMENTS, DOCUMENTS, DOCUMENTS)
def test_of_two_edits_nothing_of_the_one_that_stands_is_lost(base, mine, theirs):
    """What stands holds wherever the other changed something; every step is put on or told."""
    steps = difference(base, mine)
    made, left = merge(theirs, steps, base)
    for step in difference(base, theirs):
        mixed = isinstance(value_at(made, step.path), list) and isinstance(step.after, list)
        overruled = [s for s in steps if s.path[: len(step.path)] == step.path]
        if not mixed and not overruled:
            assert value_at(made, step.path) == step.after
    for step in steps:
        if step not in left and not isinstance(step.after, list):
            assert value_at(made, step.path) == step.after


@given(st.permutations(range(4)), st.integers(0, 3), st.integers(0, 3))
def test_two_people_on_different_fields_are_both_kept(order, first, second):
    assume(first != second)
    base = {f"f{n}": n for n in order}
    mine, theirs = base | {f"f{first}": "mine"}, base | {f"f{second}": "theirs"}
    made, left = merge(theirs, difference(base, mine), base)
    assert made == base | {f"f{first}": "mine", f"f{second}": "theirs"} and left == []


ROWS = [{"n": 1}, {"n": 2}, {"n": 3}]


def test_rows_are_kept_apart():
    base = {"rows": ROWS}
    mine = put_value(base, ("rows", 2, "n"), 9)
    steps = difference(base, mine)
    # Another edits another row, or adds one: both are kept.
    assert merge(put_value(base, ("rows", 0, "n"), 7), steps, base)[1] == []
    added = merge({"rows": [*ROWS, {"n": 4}]}, steps, base)
    assert added == ({"rows": [{"n": 1}, {"n": 2}, {"n": 9}, {"n": 4}]}, [])
    # Another takes one out: the third row is another one by now.
    assert merge({"rows": [{"n": 2}, {"n": 3}]}, steps, base)[1] == steps
    assert merge({"rows": [{"n": 2}, {"n": 3}, {"n": 4}]}, steps, base)[1] == steps
    # The row that stands there now looks like it where it was changed, and is another one.
    alike = [{"n": 1, "of": "a"}, {"n": 1, "of": "b"}]
    first = difference({"rows": alike}, put_value({"rows": alike}, ("rows", 0, "n"), 9))
    assert merge({"rows": alike[1:]}, first, {"rows": alike})[1] == first
    # Both add one at the end.
    both = merge({"rows": [*ROWS, {"n": 4}]}, difference(base, {"rows": [*ROWS, {"n": 5}]}), base)
    assert both == ({"rows": [*ROWS, {"n": 4}, {"n": 5}]}, [])


def test_what_is_gone_is_not_nothing():
    assert difference({}, {"a": None}) == [Step(("a",), ABSENT, None)]
    assert Step.read(Step(("a",), ABSENT, None).stored()) == Step(("a",), ABSENT, None)
    assert in_words([Step(("runs", "A", "built_m"), 1, 2)]) == "runs A built"
