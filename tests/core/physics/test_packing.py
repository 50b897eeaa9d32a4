"""Round things in a cover: what is packed lies apart and inside; held against brute force."""

import math
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.physics.packing import packed
from fairline.core.route.cover import COVERS, laid, least_cover

SIZES = st.lists(st.floats(0.01, 0.04), min_size=1, max_size=6)


def lies_well(places, width, height):
    inside = all(r - 1e-7 <= x <= width - r + 1e-7 for x, _, r in places)
    inside = inside and all(r - 1e-7 <= y <= height - r + 1e-7 for _, y, r in places)
    return inside and all(
        math.hypot(a[0] - b[0], a[1] - b[1]) >= a[2] + b[2] - 1e-7
        for n, a in enumerate(places)
        for b in places[n + 1 :]
    )


def thrown(diameters, width, height, seed, tries=4_000):
    """Brute force: circles dropped at random, the largest first; whether a throw ever fits."""
    dice = random.Random(seed)
    radii = sorted((d / 2 for d in diameters), reverse=True)
    if any(2 * r > min(width, height) for r in radii):
        return False
    for _ in range(tries):
        placed = []
        for r in radii:
            x, y = dice.uniform(r, width - r), dice.uniform(r, height - r)
            if any(math.hypot(x - px, y - py) < r + pr for px, py, pr in placed):
                break
            placed.append((x, y, r))
        else:
            return True
    return False


@settings(max_examples=60, deadline=None)
@given(SIZES, st.floats(0.03, 0.12), st.floats(0.03, 0.08))
def test_what_is_packed_lies_inside_and_apart_whatever_its_sizes(diameters, width, height):
    places = packed(diameters, width, height)
    if places is not None:
        assert len(places) == len(diameters) and lies_well(places, width, height)


@settings(max_examples=40, deadline=None)
@given(SIZES, st.floats(0.05, 0.12), st.floats(0.04, 0.08), st.integers(0, 999))
def test_what_brute_force_finds_room_for_is_packed(diameters, width, height, seed):
    if thrown(diameters, width, height, seed):
        assert packed(diameters, width, height) is not None


@pytest.mark.parametrize(
    ("diameters", "width", "height", "there"),
    [
        ([0.05], 0.05, 0.05, True),
        ([0.05], 0.0499, 0.06, False),
        ([0.03, 0.03], 0.06, 0.03, True),
        ([0.03, 0.03], 0.0599, 0.03, False),
        # two equal circles in a square lie on its diagonal: side = d · (1 + 1/√2) (geometry)
        ([0.03, 0.03], 0.03 * (1 + 0.5**0.5) + 1e-9, 0.03 * (1 + 0.5**0.5) + 1e-9, True),
        ([0.03, 0.03], 0.03 * (1 + 0.5**0.5) - 1e-5, 0.03 * (1 + 0.5**0.5) - 1e-5, False),
        # three in a row, each sunk between two: height d · (1 + √3/2), width 2d (geometry)
        ([0.03] * 3, 0.06, 0.03 * (1 + 3**0.5 / 2) + 1e-9, True),
        ([0.03] * 3, 0.06, 0.03 * (1 + 3**0.5 / 2) - 1e-5, False),
    ],
)
def test_sizes_known_from_geometry(diameters, width, height, there):
    assert (packed(diameters, width, height) is not None) is there


def test_one_four_inch_cover_takes_two_line_sets():
    """Common practice, no source."""
    two = (0.0244, 0.0275) * 2 + (0.012,) * 2 + (0.021,)
    assert round(least_cover(two)[0] / 0.0254) == 4
    assert least_cover(tuple(two * 8)) is None
    there = [laid(two, across, deep) is not None for _, across, deep in COVERS]
    assert there == [False, True, True, True]
