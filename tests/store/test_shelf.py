"""The shelf: versions kept, names single, files in and out without loss, the first form read."""

import csv
import io
import json
import sqlite3
import time

import pytest

from fairline.core.equipment import Equipment, PlannedHead, PlannedOutdoor
from fairline.core.job import Job, JobHead
from fairline.core.quantities import both
from fairline.core.survey.stage import SurveyEntry, WantedHead
from fairline.demo.heads import OSMUND_H26
from fairline.demo.sheets import OSMUND_26, SHELF
from fairline.store import database as store_database
from fairline.store import entries, equipment, jobs, sheets_file, shelf
from fairline.store.edits import Editing


def test_every_version_is_kept_and_what_has_not_changed_is_none(database):
    longer = OSMUND_26.model_copy(update={"max_length_m": 25.0})
    with database.session() as session:
        number = shelf.put(session, OSMUND_26, by="Ida")
        assert shelf.put(session, OSMUND_26, number) == number
        assert shelf.put(session, longer, number, by="Tomas") == number
        assert [v[:2] for v in shelf.versions(session, number)] == [(2, "Tomas"), (1, "Ida")]
        assert shelf.version_of(session, number, 1).sheet == OSMUND_26
        assert shelf.by_name(session, "  osmund   WORKS os-26").sheet == longer
        with pytest.raises(shelf.NameTakenError, match="already"):
            shelf.put(session, longer)


def test_a_job_keeps_its_version_and_is_told_of_a_newer_one(database):
    entry = SurveyEntry(
        outdoor=OSMUND_26.name, heads=(WantedHead(zone="A", sheet=OSMUND_H26.name),)
    )
    with database.session() as session:
        numbers = {s.name: shelf.put(session, s) for s in (OSMUND_26, OSMUND_H26)}
        job_id = jobs.create(session, JobHead(name="x"))
        entries.save_entry(session, job_id, "survey", entry, Editing())
        shorter = OSMUND_26.model_copy(update={"max_length_m": 15.0})
        shelf.put(session, shorter, numbers[OSMUND_26.name])
        held = jobs.load(session, job_id).job.equipment
        assert (held.outdoor.version, held.outdoor.sheet) == (1, OSMUND_26)
        assert held.head("A") == OSMUND_H26
        newer = shelf.newer(session, held)
        assert [(n.what, n.planned, n.version) for n in newer] == [("outdoor unit", 1, 2)]
        assert newer[0].differences == (
            f"max length: {both(OSMUND_26.max_length_m, 'length')} → {both(15.0, 'length')}",
        )
        equipment.take_newer(session, job_id)
        taken = jobs.load(session, job_id).job.equipment
        assert taken.outdoor == PlannedOutdoor(version=2, sheet=shorter)
        assert shelf.newer(session, taken) == []
        none = entry.model_copy(update={"outdoor": "", "heads": ()})
        entries.save_entry(session, job_id, "survey", none, Editing(version=1))
        assert jobs.load(session, job_id).job.equipment == Equipment()


@pytest.mark.parametrize("write", [sheets_file.to_json, sheets_file.to_csv])
def test_the_shelf_goes_out_and_comes_back_the_same(write):
    assert sheets_file.read(write(SHELF).encode()) == list(SHELF)


def test_a_csv_takes_units_and_bare_numbers_as_si():
    text = "kind;maker;model;refrigerant;max_length_m;ports.0.liquid_od_m;weight_kg;supports\r\n"
    rows = "outdoor;M;O 1;R-32;66 ft;1/4 in;27.5;pad stand\r\n"
    sheet = sheets_file.read((text + rows).replace(";", ",").encode())[0]
    assert sheet.max_length_m == pytest.approx(20.1168)
    assert sheet.ports[0].liquid_od_m == pytest.approx(0.00635)
    assert (sheet.weight_kg, sheet.supports) == (27.5, ("pad", "stand"))


def outdoor_row(**more):
    return {"kind": "outdoor", "maker": "M", "model": "O", "refrigerant": "R-32"} | more


@pytest.mark.parametrize(
    ("rows", "row", "field", "told"),
    [
        ([outdoor_row(max_length_m="far")], 2, "max_length_m", "not understood"),
        (
            [outdoor_row(), outdoor_row(model="P", min_heads="3", max_heads="2")],
            3,
            "max_heads",
            "contradicts itself",
        ),
        ([outdoor_row(), outdoor_row()], 3, "model", "stands in row 2"),
        ([outdoor_row(kind="boiler")], 2, "kind", ""),
        ([outdoor_row(colour="blue")], 2, "colour", "not known"),
        ([outdoor_row(hole_m="0.06")], 2, "hole_m", "not known"),  # a head's field
        ([outdoor_row(refrigerant="R-22")], 2, "refrigerant", ""),
        ([outdoor_row(weight_kg="-3")], 2, "weight_kg", ""),
    ],
)
def test_what_is_wrong_is_named_by_row_and_field(rows, row, field, told):
    names = list(dict.fromkeys(n for r in rows for n in r))
    out = io.StringIO()
    writer = csv.DictWriter(out, names)
    writer.writeheader()
    writer.writerows(rows)
    with pytest.raises(sheets_file.SheetsFileError) as caught:
        sheets_file.read(out.getvalue().encode())
    first = caught.value.errors[0]
    assert (first.row, first.field or field) == (row, field)
    assert told in first.what


@pytest.mark.parametrize(
    "content",
    [
        b"",
        b"\xff\xfe",
        b"{",
        b"[1]",
        b'{"sheets": 5}',
        b'{"format": "other"}',
        b"kind,maker\r\n",
        b"kind,kind,maker,model\r\n",
        b"kind,maker,model\r\n",
        b"[" * 5000,
        b"kind,maker,model\r\noutdoor,M,O,1,2,3\r\n",
        b"kind,maker,model,a.b.c.d\r\nhead,M,H,1\r\n",
        b"kind,maker,model,ports,ports.0.letter\r\noutdoor,M,O,x,A\r\n",
    ],
)
def test_what_is_no_file_of_sheets_is_refused(content):
    with pytest.raises(sheets_file.SheetsFileError):
        sheets_file.read(content)


def test_five_thousand_sheets_come_in_whole_and_again_unchanged(database):
    many = [
        sheet.model_copy(update={"model": f"{sheet.model}-{n}"})
        for n in range(5000 // len(SHELF) + 1)
        for sheet in SHELF
    ]
    content = sheets_file.to_json(many).encode()
    begun = time.perf_counter()
    with database.session() as session:
        first = shelf.take_in(session, sheets_file.read(content))
        assert (first.new, first.changed, first.unchanged) == (len(many), 0, 0)
        session.commit()
        assert time.perf_counter() - begun < 60  # minutes would be a fault, seconds are not judged
        changed = [many[0].model_copy(update={"notes": "new"}), *many[1:]]
        again = shelf.take_in(session, changed)
        assert (again.new, again.changed, again.unchanged) == (0, 1, len(many) - 1)
        assert shelf.count(session) == len(many)
        assert shelf.count(session, "head", "osmund oh-26-7") > 0
        assert len(shelf.sheets(session, "head", limit=10, offset=5)) == 10


FIRST_SHEET = {
    "maker": "Osmund Works",
    "outdoor": {
        "model": "OS-26",
        "refrigerant": "R-32",
        "liquid_od_m": 0.00635,
        "gas_od_m": 0.00952,
        "rate_kg_per_m": 0.02,
        "liquid_torque_low_nm": 15.0,
        "liquid_torque_high_nm": 17.5,
        "included_length_m": 7.62,
    },
    "head": {"model": "OH-26", "kind": "high-wall", "airflow_m3_s": 0.155, "width_m": 0.81},
    "parts": "Head\nOutdoor unit",
}
FIRST_SURVEY = {
    "rooms": [{"name": "Loft", "load_w": 2400.0}],
    "damage": "none",
    "hiss": "heard",
    "outdoor_serial": "K1",
    "parts_seen": ["Head"],
}
FIRST_MOUNT = {
    "head_left_m": 0.4,
    "head_right_m": 0.5,
    "head_height_m": 2.1,
    "plate": "level",
    "wall_m": 0.2,
    "support": "pad",
    "outdoor_level": "yes",
    "notes": "Behind the door",
}


def held_against_the_first_form(job):
    outdoor = job.equipment.outdoor.sheet
    assert outdoor.port.liquid_od_m == 0.00635 and outdoor.rate_kg_per_m(6.35) == 0.02
    assert outdoor.torques[0].low_nm == 15.0
    assert job.equipment.head("A").airflow_m3_s == 0.155
    assert job.survey.heads[0].room == "Loft" and job.survey.box("A").hiss == "heard"
    assert job.survey.box("outdoor").serial == "K1"
    wall = job.mount.wall("A")
    assert wall.width_m == pytest.approx(0.4 + 0.81 + 0.5) and wall.y_m == 2.1
    assert wall.notes == "Behind the door"  # where a page shows it
    assert job.mount.outdoor.support == "pad"


def test_a_job_file_of_the_first_form_is_read():
    document = {
        "format_version": 1,
        "uid": "old-job-1",
        "created_at": "2026-03-01T00:00:00Z",
        "head": {"name": "Loft"},
        "sheet": FIRST_SHEET,
        "survey": FIRST_SURVEY,
        "mount": FIRST_MOUNT,
    }
    job = Job.model_validate_json(json.dumps(document))
    held_against_the_first_form(job)
    assert job.format_version == 3
    assert Job.model_validate_json(job.model_dump_json()) == job
    with pytest.raises(ValueError):
        Job.model_validate(document | {"format_version": 4})


def test_a_database_of_the_first_form_is_brought_up(tmp_path):
    url = f"sqlite:///{tmp_path}/old.db"
    database = store_database.Database(url)
    store_database.migrate(database.engine, "0001")
    database.close()
    moment = "2026-03-01 09:00:00.000000"
    with sqlite3.connect(tmp_path / "old.db") as plain:
        for n in (1, 2):
            plain.execute(
                "INSERT INTO sheet VALUES (?, 'x', ?, 3, ?)", (n, json.dumps(FIRST_SHEET), moment)
            )
        for n, sheet in ((1, json.dumps(FIRST_SHEET)), (2, None), (3, json.dumps(FIRST_SHEET))):
            plain.execute(
                "INSERT INTO job VALUES (?, ?, ?, ?, ?, 1)",
                (n, f"old-job-{n}", '{"name": "Loft"}', sheet, moment),
            )
        for stage, entry in (("survey", FIRST_SURVEY), ("mount", FIRST_MOUNT)):
            plain.execute(
                "INSERT INTO entry VALUES (1, ?, ?, 4, '', 0, 'Ida', ?)",
                (stage, json.dumps(entry), moment),
            )
    database = store_database.open_database(url)
    with database.session() as session:
        held_against_the_first_form(jobs.load(session, 1).job)
        assert jobs.load(session, 2).job.equipment == Equipment()
        third = jobs.load(session, 3).job
        assert third.survey.outdoor == "Osmund Works OS-26"
        assert isinstance(third.equipment.heads[0], PlannedHead)
        assert shelf.count(session) == 2
        assert shelf.by_name(session, "Osmund Works OS-26").version == 3
        assert len(shelf.versions(session, 1)) == 1
    database.close()
