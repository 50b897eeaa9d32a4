"""Crossed cables: every permutation of two to five heads, and what a damaged look can tell."""

from itertools import permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from fairline.core.calc.cross_wire import CrossWireRequest, cross_wire

HEADS = "ABCDE"


def look(intended, observed):
    return cross_wire(CrossWireRequest.model_validate({"intended": intended, "observed": observed}))


def every_permutation():
    for count in range(2, 6):
        for order in permutations(range(count)):
            yield count, order


@pytest.mark.parametrize(("count", "order"), list(every_permutation()))
def test_every_permutation_is_told_and_its_swaps_put_it_right(count, order):
    intended = {HEADS[n]: f"p{n}" for n in range(count)}
    observed = {HEADS[n]: [f"p{order[n]}"] for n in range(count)}
    answer = look(intended, observed)
    fixed = {HEADS[n] for n in range(count) if order[n] == n}
    assert set(answer.result.ok) == fixed
    assert {h for cycle in answer.result.cycles for h in cycle} == set(HEADS[:count]) - fixed
    for cycle in answer.result.cycles:  # each answers on the port of the one after it
        for head, after in zip(cycle, (*cycle[1:], cycle[0]), strict=True):
            assert observed[head] == [intended[after]]
    lying = {f"p{order[n]}": HEADS[n] for n in range(count)}  # the cable of which head, by port
    for a, b in answer.result.swaps:
        lying[a], lying[b] = lying[b], lying[a]
    assert lying == {port: head for head, port in intended.items()}
    crossed = order != tuple(range(count))
    assert answer.call.verdict.value == ("short" if crossed else "holds")
    assert answer.findings == (("crossed",) if crossed else ())


@given(st.data())
def test_a_damaged_look_never_passes_and_never_accuses(data):
    count = data.draw(st.integers(2, 5))
    order = data.draw(st.permutations(range(count)))
    intended = {HEADS[n]: f"p{n}" for n in range(count)}
    observed = {HEADS[n]: [f"p{order[n]}"] for n in range(count)}
    hurt = data.draw(st.sampled_from(HEADS[:count]))
    how = data.draw(st.sampled_from(("none", "two", "not called", "other port", "same as another")))
    if how == "none":
        observed[hurt] = []
    elif how == "two":
        observed[hurt] = [*observed[hurt], f"p{(order[HEADS.index(hurt)] + 1) % count}"]
    elif how == "not called":
        del observed[hurt]
    elif how == "other port":
        observed[hurt] = ["spare"]
    else:
        other = next(h for h in HEADS[:count] if h != hurt)
        observed[hurt] = observed[other]
    answer = look(intended, observed)
    wanted = "wait" if how == "not called" else "unknown"
    finding = {"none": "no_response", "not called": None}.get(how, "ambiguous")
    assert answer.call.verdict.value == wanted
    assert finding is None or finding in answer.findings
    assert hurt not in answer.result.ok
    assert hurt not in {h for cycle in answer.result.cycles for h in cycle}


@pytest.mark.parametrize(
    ("intended", "observed", "said"),
    [
        ({"A": "p", "B": "p"}, {}, "stands twice"),
        ({"A": "p"}, {"Z": ["p"]}, "no head called Z"),
        ({}, {}, "at least 1"),
    ],
)
def test_what_cannot_be_is_refused(intended, observed, said):
    with pytest.raises(ValidationError, match=said):
        look(intended, observed)
