"""A bid: materials and hours by price, options, markup and tax; what came against what was given.

No published source: the sums are worked by hand beside each check.
"""

import pytest
from hypothesis import given as example
from hypothesis import strategies as st

from fairline.core.calc.materials import Line
from fairline.core.plan.bid import (
    Bid,
    Option,
    OwnLine,
    PriceBook,
    bid_sheet,
    given,
    line_key,
    what_came,
)
from tests.core.plan.test_day import JOBS, task

JOB = JOBS["Gatehouse"].model_copy(update={"equipment": type(JOBS["Gatehouse"].equipment)()})
TUBE = Line(group="tube", item="Tube", size="1/4", unit="m", quantity=10.0)
CLAMP = Line(group="supports", item="Clamp", size="", unit="pieces", quantity=4.0)
LIST = [TUBE, CLAMP, TUBE]
BOOK = PriceBook(
    prices={line_key(TUBE): 3.0, line_key(CLAMP): 1.5}, hour=80.0, markup=0.25, tax=0.1
)
TASKS = [
    task("hang", words="Hang", time="hang", duration_s=5400.0, crew=2),
    task("hold", crew=0),
    task("supply", words="Supply", crew=0, trade="electrician"),
    task("own-1", words="Slab", time="", duration_s=3600.0),
]


NOTHING = Bid()


def sheet(bid=NOTHING, book=BOOK, materials=LIST, tasks=TASKS):
    return bid_sheet(JOB, materials, tasks, bid, book)


def test_the_sums_are_those_of_a_pencil():
    """20 m at 3 and 4 at 1.50 are 66, a quarter on it 16.50; 3 h of two and 1 h at 80 are 320."""
    found = sheet()
    assert (found.materials, found.markup, found.work) == (66.0, 16.5, 320.0)
    assert found.lacking == ("Electrician: Supply",) and found.tax == 40.25
    priced = sheet(Bid(prices={"trade|supply": 500.0}))
    assert priced.lacking == () and priced.total == pytest.approx((66 + 16.5 + 820) * 1.1)
    more = Bid(
        prices={"trade|supply": 500.0},
        quantities={line_key(CLAMP): 0.0},
        own=(OwnLine(words="Permit", quantity=2.0, price=50.0),),
        options=(Option(words="Colour", price=100.0, chosen=True), Option(words="Pump")),
    )
    assert sheet(more).total == pytest.approx((60 * 1.25 + 820 + 100 + 100) * 1.1)
    chosen = more.model_copy(update={"options": (Option(words="Pump", chosen=True),)})
    assert sheet(chosen).lacking == ("Pump",)


def test_machines_are_lines_of_their_own():
    job = JOBS["Gallery"]
    found = bid_sheet(job, [], [], Bid(), PriceBook())
    assert sum(x.quantity for x in found.lines) == 1 + len(job.equipment.heads) + len(
        job.equipment.fittings
    )
    assert all(x.group == "machines" and x.lacks for x in found.lines)


def test_what_came_is_told_by_line_the_dearest_first():
    offer = given(sheet(Bid(prices={"trade|supply": 500.0})), "2027-03-01", "Ida", "$")
    assert offer.total == sheet(Bid(prices={"trade|supply": 500.0})).total
    assert what_came(offer, sheet(), {}) == []
    longer = [TUBE.model_copy(update={"quantity": 26.0}), CLAMP]
    hours = {"Plate and head on the wall": 4.0}
    came = {
        c.words: (c.offered, c.came, c.more)
        for c in what_came(offer, sheet(materials=longer), hours)
    }
    assert came == {
        "Plate and head on the wall": (3.0, 4.0, 80.0),
        "Tube 1/4": (20.0, 26.0, 18.0),
    }
    gone = {c.words: c.more for c in what_came(offer, sheet(materials=[TUBE, TUBE]), {})}
    assert gone == {"Clamp": -6.0}


@example(
    st.lists(st.tuples(st.floats(0, 1e4), st.floats(0, 1e4)), max_size=6),
    st.floats(0, 2),
    st.floats(0, 0.3),
)
def test_a_total_is_its_parts_to_the_cent(lines, markup, tax):
    materials = [
        Line(group="tube", item=f"T{n}", size="", unit="m", quantity=q)
        for n, (q, _) in enumerate(lines)
    ]
    prices = {line_key(line): price for line, (_, price) in zip(materials, lines, strict=True)}
    found = sheet(book=PriceBook(prices=prices, markup=markup, tax=tax), materials=materials)
    bought = sum(round(q * p, 2) for q, p in lines)
    assert found.total == pytest.approx(bought * (1 + markup) * (1 + tax), abs=0.02, rel=1e-9)
