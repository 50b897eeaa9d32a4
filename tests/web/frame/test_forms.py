"""Forms both ways: an entry as fields, and the fields as the same entry."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from starlette.datastructures import FormData

from fairline.core.stages import ENTRIES
from fairline.demo.sheets import OSMUND_26, SHELF
from fairline.demo.systems import demo_jobs
from fairline.store.jobs import field_name
from fairline.web.frame.forms import Form, flat, form_fields, nested, read
from fairline.web.frame.rows import rows_changed

ENTRIES_OF_DEMO = [getattr(job, field_name(stage)) for job in demo_jobs() for stage in ENTRIES]


def as_posted(entry, system):
    """What a browser posts of a form: every field as text, ticked boxes only."""
    fields = {}
    for name, value in flat(entry, system).items():
        if value is True:
            fields[name] = "true"
        elif isinstance(value, tuple):
            if value:
                fields[name] = list(value)
        elif value is not False:
            fields[name] = str(value)
    return fields


@pytest.mark.parametrize("system", ["us", "si"])
@pytest.mark.parametrize("entry", ENTRIES_OF_DEMO)
def test_an_entry_posted_as_shown_is_the_same_entry(entry, system):
    again, form = read(type(entry), as_posted(entry, system), system, entry)
    assert form.errors == {}
    assert again == entry


@pytest.mark.parametrize("system", ["us", "si"])
@pytest.mark.parametrize("sheet", SHELF, ids=lambda s: s.model)
def test_a_sheet_posted_as_shown_is_the_same_sheet(sheet, system):
    again, _ = read(type(sheet), as_posted(sheet, system), system, sheet)
    assert again == sheet


def test_a_changed_field_is_read_and_the_others_keep_what_is_behind_them():
    fields = as_posted(OSMUND_26, "si")
    fields["included_length_m"] = "8 m"
    again, _ = read(type(OSMUND_26), fields, "si", OSMUND_26)
    assert again.included_length_m == 8.0
    assert again.rates == OSMUND_26.rates


names = st.from_regex(r"[a-c](\.[0-3]|\.[a-c]){0,3}", fullmatch=True)


@given(st.dictionaries(names, st.text(max_size=3), max_size=8))
def test_any_names_are_nested_or_refused_never_lost(fields):
    try:
        tree = nested(fields)
    except ValueError:
        return

    def leaves(value):
        inner = value.values() if isinstance(value, dict) else value
        return sum(leaves(v) if isinstance(v, dict | list) else 1 for v in inner)

    assert leaves(tree) == len(fields)


def test_what_is_posted_beside_the_fields_is_left_out():
    data = FormData(
        [("a", "1"), ("_turn", "3"), ("parts[]", ""), ("parts[]", "x"), ("parts[]", "y")]
    )
    assert form_fields(data) == {"a": "1", "parts": ["x", "y"]}
    assert nested({"a" + ".b" * 4: "1"})
    with pytest.raises(ValueError):
        nested({"a" + ".b" * 500: "1"})


@pytest.mark.parametrize(
    ("add", "remove", "left"),
    [
        ("", "", ["u", "v", "w"]),
        ("", "levels.0", ["v", "w"]),
        ("", "levels.2", ["u", "v"]),
        ("", "levels.9", ["u", "v", "w"]),
        ("", "levels.x", ["u", "v", "w"]),
        ("", "nothing.0", ["u", "v", "w"]),
        ("levels", "", ["u", "v", "w", ""]),
        ("nothing", "", ["u", "v", "w"]),
        ("", "levels", ["u", "v", "w"]),
    ],
)
def test_rows_come_and_go(add, remove, left):
    fields = {f"levels.{i}.name": d for i, d in enumerate("uvw")} | {"notes": "n"}
    changed = nested(rows_changed(fields, add, remove))
    assert [level["name"] for level in changed["levels"]] == left
    assert changed["notes"] == "n"


def test_a_form_knows_what_is_ticked_and_what_is_wrong():
    form = Form({"parts": ("a",), "x": "1"}, {"x": "no", "": "whole"})
    assert form.checked("parts", "a") and not form.checked("parts", "b")
    assert (form.value("none"), form.error("x"), form.whole) == ("", "no", "whole")
