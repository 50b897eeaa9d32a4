"""The unit as a bar: heads side by side to one scale, the limits where they are."""

import re

import pytest

from fairline.web.drawing.carrying import LEFT, WIDTH, carrying


@pytest.mark.parametrize("most", [6000.0, 12_000.0])
def test_heads_and_limits_stand_to_one_scale(most):
    drawn = str(carrying([("A", 2600.0, False), ("B", 3500.0, True)], most, 3000.0, "us"))
    wide = [float(w) for w in re.findall(r'width="([\d.]+)" height="34"', drawn)]
    assert wide[1] / wide[2] == pytest.approx(2600 / 3500, rel=0.01)
    assert wide[0] / wide[1] == pytest.approx(most / 2600, rel=0.01)
    marks = [float(x) for x in re.findall(r'd="M([\d.]+) 20v46"', drawn)]
    assert [round((x - LEFT) / (wide[0] / most)) for x in marks] == pytest.approx(
        [3000, most], abs=20
    )
    assert max(marks) <= LEFT + WIDTH + 0.1 and ">A<" in drawn and ">B<" in drawn
