"""The handbook says something of every stage, and its examples are the computations' own."""

import pytest

from fairline.core import handbook
from fairline.core.calc.door import CALCULATIONS
from fairline.core.equipment import Equipment, PlannedHead, PlannedOutdoor
from fairline.core.schools import TOPICS
from fairline.core.sheet import KINDS
from fairline.core.sheet.needs import NEEDS, needs_of, silent
from fairline.core.stages import TITLES
from fairline.demo.heads import OSMUND_C35, OSMUND_H26
from fairline.demo.sheets import OSMUND_26, OSMUND_80


def test_every_stage_has_its_chapter_with_purpose_reasons_and_words():
    chapters = handbook.chapters()
    assert list(chapters) == list(TITLES)
    for chapter in chapters.values():
        assert chapter.purpose.endswith(".") and len(chapter.asks) >= 2
        assert all(why.endswith(".") for _, why in chapter.asks)
    told = {t.name for c in chapters.values() for t in c.topics}
    assert told == {n for n, t in TOPICS.items() if t.stage in TITLES}


def test_every_example_is_worked_by_the_computation_it_names():
    examples = [e for c in handbook.chapters().values() for e in c.examples]
    assert {e.name for e in examples} <= set(CALCULATIONS) and len(examples) >= 8
    assert all(e.steps and e.about for e in examples)
    added = next(e for e in examples if e.name == "added-charge")
    assert added.steps[-1].value == pytest.approx(0.04)  # 2 m beyond, 20 g each


def test_a_search_finds_every_word_or_nothing():
    assert [c.stage for c in handbook.found("crowfoot adapter")] == ["flare"]
    assert handbook.found("crowfoot parachute") == []
    assert len(handbook.found("")) == len(TITLES)


def test_what_a_sheet_needs_are_fields_that_its_kind_has():
    for need in NEEDS:
        assert need.field in KINDS[need.kind].model_fields, need
        assert need.stage in TITLES and need.why
    for kind in KINDS:
        assert {"maker", "model"} <= set(needs_of(kind))


@pytest.mark.parametrize(
    ("sheet", "stage", "asked"),
    [
        (OSMUND_26, "route", False),
        (OSMUND_26.model_copy(update={"max_lift_m": None}), "route", True),
        (OSMUND_26.model_copy(update={"max_lift_m": None}), "charge", False),
        (OSMUND_26.model_copy(update={"max_heads": None}), "survey", False),  # single: has none
        (OSMUND_80.model_copy(update={"max_heads": None}), "survey", True),
    ],
)
def test_a_stage_asks_for_what_it_cannot_do_without_and_a_sheet_lacks(sheet, stage, asked):
    found = silent(Equipment(outdoor=PlannedOutdoor(sheet=sheet)), stage)
    assert [s.at for s in found] == (["outdoor"] if asked else [])


def test_a_model_on_two_zones_is_asked_once_and_a_cassette_for_no_hole():
    dumb = OSMUND_H26.model_copy(update={"hole_m": None})
    heads = (PlannedHead(zone="A", sheet=dumb), PlannedHead(zone="B", sheet=dumb))
    assert [s.at for s in silent(Equipment(heads=heads), "mount")] == ["A"]
    above = OSMUND_C35.model_copy(update={"hole_m": None})
    assert silent(Equipment(heads=(PlannedHead(zone="A", sheet=above),)), "mount") == []
