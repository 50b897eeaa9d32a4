"""Files of sheets: whatever a sheet holds goes out and comes back the same."""

import csv
import io
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.sheet import ANY_SHEET, KINDS
from fairline.demo.sheets import SHELF
from fairline.store import sheets_file, shelf
from fairline.store.text_file import FORMULA
from tests.web.frame.test_extremes import accepted

TEXTS = ["", "x", 'a "quoted" name', "two\nlines", "semi;colon, comma", "Łódź 日本", "=1+1"]
NEEDED = {
    "outdoor": {"refrigerant": "R-32"},
    "branch-box": {"refrigerant": "R-454B"},
    "kit": {"refrigerant": "R-410A"},
}


@st.composite
def any_sheet(draw):
    kind = draw(st.sampled_from(list(KINDS)))
    drawn = draw(
        accepted(
            KINDS[kind],
            kind=kind,
            maker="M",
            model=draw(st.sampled_from(["X", "X 1", "Ł-9"])),
            **NEEDED.get(kind, {}),
        )
    )
    return drawn.model_copy(
        update={
            "parts": draw(st.sampled_from(TEXTS)).strip(),
            "notes": draw(st.sampled_from(TEXTS)).strip(),
            "cites": draw(
                st.sampled_from([{}, {"model": "p. 3"}, {"notes": "p. 1, left"}, {"model": "=1+1"}])
            ),
        }
    )


@settings(max_examples=150)
def is_number(cell):
    try:
        float(cell)
    except ValueError:
        return False
    return True


@given(any_sheet())
@settings(max_examples=40, deadline=None)
def test_no_cell_goes_out_as_a_formula(sheet):
    rows = list(csv.reader(io.StringIO(sheets_file.to_csv([sheet]), newline="")))
    assert not [c for row in rows for c in row if c.startswith(FORMULA) and not is_number(c)]


@given(any_sheet(), st.sampled_from([sheets_file.to_json, sheets_file.to_csv]))
def test_any_sheet_goes_out_and_comes_back_the_same(sheet, write):
    assert sheets_file.read(write([sheet]).encode()) == [sheet]


def test_the_schema_names_every_field_and_unit_of_every_kind():
    schema = sheets_file.SheetsFile.model_json_schema()
    text = json.dumps(schema)
    for model in KINDS.values():
        for field in model.model_fields:
            assert f'"{field}"' in text
    assert schema["properties"]["format_version"]["const"] == 1
    for sheet in SHELF:
        assert ANY_SHEET.validate_python(shelf.document_of(sheet)) == sheet


@pytest.mark.parametrize("count", [1, 60])
def test_errors_are_counted_and_at_most_fifty_told(count):
    rows = "".join(f"head,M,H{n},far\r\n" for n in range(count))
    with pytest.raises(sheets_file.SheetsFileError) as caught:
        sheets_file.read(f"kind,maker,model,weight_kg\r\n{rows}".encode())
    assert caught.value.total == count
    assert len(caught.value.errors) == min(count, 50)
    assert str(caught.value.errors[0]).startswith("row 2, weight_kg: ")
