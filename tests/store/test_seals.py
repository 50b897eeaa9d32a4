"""Seals: whatever is changed in a job, its file or its backup is found, and said where."""

import json
import re
import zipfile
from contextlib import suppress
from datetime import UTC, datetime
from io import BytesIO
from tempfile import TemporaryDirectory

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.cli import main
from fairline.core.hand_over.records import VISITS, HandedOver, Reopened
from fairline.core.job import AnyRecords
from fairline.core.seal import last_of, spoken
from fairline.demo.systems import demo_jobs
from fairline.store import archive, job_file, jobs, pictures, seals
from fairline.store.backup import backup
from fairline.store.database import open_database
from fairline.store.verified import UnreadableError, verify_backup, verify_file
from tests.pictures import jpeg

DAY = datetime(2026, 12, 1, 9, 0, tzinfo=UTC)


@pytest.fixture(scope="module")
def sealed(tmp_path_factory):
    """A finished job with a picture, handed over: its database, number, ZIP and JSON."""
    folder = tmp_path_factory.mktemp("sealed")
    database = open_database(f"sqlite:///{folder / 'jobs.db'}")
    with database.session() as session:
        number = jobs.import_job(session, demo_jobs()[0])
        name = pictures.keep(session, number, jpeg())
        add_picture(session, number, name)
        job = jobs.load(session, number).job
        seals.seal(session, number, job, "Ida", DAY)
        handed = HandedOver(by="Ida", at=DAY, to="the owner", reason="all done")
        jobs.append_record(session, number, handed)
        session.commit()
        job = jobs.load(session, number).job
        packed = archive.write(session, number, job)
        text = "".join(job_file.write(seals.with_chain(session, number, job))).encode()
    yield folder, number, packed, text
    database.close()


def add_picture(session, number, name):
    from fairline.core.hand_over.picture import Picture

    record = Picture(of="place", place="the yard", name=name, by="Ida", at=DAY)
    jobs.append_record(session, number, record)


def test_what_nobody_touched_is_intact_and_says_what_came_after_the_seal(sealed):
    for content in sealed[2:]:
        found = verify_file(content)
        assert (found.wrong, found.sealed.by) == ((), "Ida")
        assert ["handed-over" in f.what for f in found.added if "record" in f.what] == [True]


@given(st.data())
@settings(max_examples=150, deadline=None)
def test_every_changed_byte_of_a_file_is_found(sealed, data):
    content = bytearray(sealed[data.draw(st.sampled_from((2, 3)))])
    at = data.draw(st.integers(0, len(content) - 1))
    content[at] ^= data.draw(st.integers(1, 255))
    with suppress(UnreadableError):  # too damaged to be read: found too
        found = verify_file(bytes(content))
        renamed = not found.held and "does not know" in " ".join(found.notes)
        assert found.wrong or renamed  # a field's own name: told, for a newer program may have it


def edited(text, change):
    """The file of a job after somebody changed its document, laid out as the program does."""
    job = json.loads(text)
    change(job)
    made = job_file.read(json.dumps(job).encode()).job
    return "".join(job_file.write(made)).encode()


def _shift(job):
    job["runs"][0]["readings"][3]["gauge_pa"] += 1.0


def _remove(job):
    job["records"].pop(4)


def _rename(job):
    joint = next(r for r in job["records"] if r["kind"] == "joint")
    joint["by"] = "Somebody Else"


def _swap(job):
    job["records"][2], job["records"][3] = job["records"][3], job["records"][2]


def _entry(job):
    job["route"]["valve_height_m"] = 0.777


def _head(job):
    job["head"]["customer"] = "Another"


@pytest.mark.parametrize(
    ("change", "told", "how"),
    [
        (_shift, "readings 1 to 100", "changed"),
        (_remove, "record ", "missing"),
        (_rename, ", joint", "changed"),
        (_swap, "record ", "order"),
        (_entry, "entered on Route", "changed"),
        (_head, "the job's head", "changed"),
    ],
)
def test_each_change_is_named_by_its_place(sealed, change, told, how):
    found = verify_file(edited(sealed[3], change)).wrong
    assert any(told in f.what and f.how == how for f in found), found


def test_a_finding_is_told_as_people_know_it(sealed):
    said = [
        f.words
        for change in (_rename, _shift)
        for f in verify_file(edited(sealed[3], change)).wrong
    ]
    assert any(s.startswith("The record of the making of a joint (Somebody Else, 20") for s in said)
    assert any(re.match(r"Hold \(.*UTC\), readings 1 to 100 was changed", s) for s in said), said


@pytest.mark.parametrize("change", [_shift, _remove, _rename, _entry, _head])
def test_who_makes_the_files_chain_anew_is_told_by_the_seal(sealed, change):
    """A file whose own chain was made to fit still differs from the day it was handed over."""

    def forged(job):
        change(job)
        job["chain"] = None

    made = job_file.read(edited(sealed[3], forged)).job
    from fairline.core.chain import chain

    made = made.model_copy(update={"chain": chain(made, None, made.seals[-1].links)})
    found = verify_file("".join(job_file.write(made)).encode())
    assert [f for f in found.wrong if f.how in ("changed", "missing")]


def opened(sealed, tmp_path, change):
    """The job opened again and changed as its pages do, held against its seal, then sealed anew."""
    file = tmp_path / "again.db"
    backup(sealed[0] / "jobs.db", file)
    database = open_database(f"sqlite:///{file}")
    with database.session() as session:
        again = Reopened(by="Mo", at=DAY, reason="a head more")
        jobs.append_record(session, sealed[1], again)
        change(session)
        session.flush()
        job = jobs.load(session, sealed[1]).job
        before = seals.verify(session, sealed[1], job)
        seals.seal(session, sealed[1], job, "Mo", DAY)
        jobs.append_record(session, sealed[1], HandedOver(by="Mo", at=DAY))
        session.flush()
        after = seals.verify(session, sealed[1], jobs.load(session, sealed[1]).job)
    database.close()
    return before, after


def test_what_is_changed_on_a_job_opened_again_is_told_and_is_no_forgery(sealed, tmp_path):
    def change(session):
        head = jobs.load(session, sealed[1]).job.head
        jobs.set_head(session, sealed[1], head.model_copy(update={"customer": "Another"}))

    before, after = opened(sealed, tmp_path, change)
    assert before.intact and after.intact
    assert "the job's head" in [f.what for f in before.added if f.how == "changed"]
    assert "the job's head" not in [f.what for f in after.added]


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE record SET document = json_set(document, '$.by', 'X') WHERE kind = 'joint'",
        "DELETE FROM record WHERE kind = 'joint'",
    ],
)
def test_what_only_grows_is_told_though_the_job_was_opened_and_sealed_anew(
    sealed, tmp_path, statement
):
    def change(session):
        session.connection().exec_driver_sql(statement)

    for found in opened(sealed, tmp_path, change):
        assert not found.intact and all("joint" in f.what for f in found.wrong)


def test_a_file_with_nothing_to_hold_it_against_is_unknown(sealed):
    bare = job_file.read(sealed[3]).job.model_copy(update={"seals": (), "chain": None})
    found = verify_file("".join(job_file.write(bare)).encode())
    assert (found.intact, found.wrong, found.held) == (False, (), False)


def test_a_seal_that_is_made_anew_has_another_digest(sealed):
    """What stays on paper: the last digest that was printed on the day."""
    job = job_file.read(sealed[3]).job
    links = list(job.seals[0].links)
    assert last_of(links) == job.seals[0].last
    links[5] = links[5].model_copy(update={"digest": "0" * 32})
    assert last_of(links) != job.seals[0].last


def test_a_swapped_picture_is_named(sealed):
    packed, out = zipfile.ZipFile(BytesIO(sealed[2])), BytesIO()
    name = next(n for n in packed.namelist() if n.startswith("pictures/"))
    with zipfile.ZipFile(out, "w") as other:
        for one in packed.namelist():
            other.writestr(one, jpeg("green") if one == name else packed.read(one))
    found = verify_file(out.getvalue()).wrong
    assert [f.what for f in found if f.how == "changed"] == [f"picture {name[9:21]}"]


def test_a_backup_whose_readings_were_edited_says_so(sealed, tmp_path):
    folder = sealed[0]
    file = tmp_path / "copy.db"
    backup(folder / "jobs.db", file)
    assert [v.intact for v in verify_backup(file)] == [True]
    other = open_database(f"sqlite:///{file}")
    with other.session() as session:
        session.connection().exec_driver_sql(
            "UPDATE record SET document = json_set(document, '$.by', 'X') WHERE kind = 'joint'"
        )
        session.commit()
    other.close()
    (found,) = verify_backup(file)
    assert {f.how for f in found.wrong} == {"changed"}
    assert all("joint" in f.what for f in found.wrong)


def test_a_file_goes_into_another_copy_and_out_again_as_it_was(sealed, tmp_path):
    other = open_database(f"sqlite:///{tmp_path / 'other.db'}")
    with other.session() as session:
        content, shown = archive.read(sealed[2])
        job = job_file.read(content).job
        number = jobs.import_job(session, job)
        for picture in shown.values():
            pictures.keep(session, number, picture)
        session.flush()
        again = seals.with_chain(session, number, jobs.load(session, number).job)
        assert again == job
        assert verify_file(archive.write(session, number, again)).intact
    other.close()


@pytest.mark.parametrize("content", [b"", b"{}", b"PK\x03\x04nothing", b"\x00" * 50])
def test_what_is_no_job_is_said_to_be_none(content):
    with pytest.raises(UnreadableError):
        verify_file(content)


words = st.text(st.characters(codec="utf-8", exclude_categories=("C",)), min_size=1, max_size=40)
said = words.map(str.strip).filter(bool)
stroke = st.lists(
    st.tuples(st.integers(0, 600), st.integers(0, 200)).map(lambda p: f"{p[0]},{p[1]}"), min_size=1
).map(" ".join)
RECORDS = st.one_of(
    st.builds(dict, kind=st.just("addition"), words=said),
    st.builds(dict, kind=st.just("visit"), what=st.sampled_from(sorted(VISITS)), note=said).map(
        lambda d: d | {"on": "2027-05-31", "stages": ["mount"]}
    ),
    st.builds(dict, kind=st.just("visit-done"), visit=st.just("v1"), found=said),
    st.builds(dict, kind=st.just("question"), words=said, asked_of=said),
    st.builds(dict, kind=st.just("answer"), question=st.just("q1"), words=said, given_by=said),
    st.builds(dict, kind=st.just("rough-in"), run=st.just("A"), ends=st.just("capped")),
    st.builds(dict, kind=st.just("rough-read"), run=st.just("A"), gauge_pa=st.floats(0, 4e6)).map(
        lambda d: d | {"what": "left", "pipe_c": 20.0}
    ),
    st.builds(dict, kind=st.just("handed-over"), signed=stroke, to_signed=stroke, to=said),
    st.builds(dict, kind=st.just("reopened"), reason=said),
)


@given(st.sampled_from(range(9)), st.lists(RECORDS, min_size=1, max_size=8), st.booleans())
@settings(max_examples=12, deadline=None)
def test_any_job_goes_through_a_zip_into_another_copy_and_out_as_it_was(which, made, is_sealed):
    with TemporaryDirectory() as folder:
        one, two = (open_database(f"sqlite:///{folder}/{n}.db") for n in "ab")
        with one.session() as session, two.session() as other:
            records = AnyRecords.validate_python(
                [r | {"by": "Ida", "at": DAY, "uid": f"x{n}"} for n, r in enumerate(made)]
            )
            job = demo_jobs()[which]
            job = job.model_copy(update={"records": (*job.records, *records)})
            number = jobs.import_job(session, job)
            pictures.keep(session, number, jpeg("blue"))
            session.flush()
            kept = jobs.load(session, number).job
            if is_sealed:
                seals.seal(session, number, kept, "Ida", DAY)
            packed = archive.write(session, number, kept)
            document, shown = archive.read(packed)
            moved = jobs.import_job(other, job_file.read(document).job)
            for picture in shown.values():
                pictures.keep(other, moved, picture)
            other.flush()
            again = archive.write(other, moved, jobs.load(other, moved).job)
            assert job_file.read(archive.read(again)[0]).job == job_file.read(document).job
            assert verify_file(packed).intact and verify_file(again).intact
        one.close()
        two.close()


def test_the_command_says_intact_or_where_and_fails(sealed, tmp_path, capsys):
    whole, changed = tmp_path / "job.zip", tmp_path / "changed.json"
    whole.write_bytes(sealed[2])
    changed.write_bytes(edited(sealed[3], _head))
    assert main(["verify", str(whole)]) == 0
    said = capsys.readouterr().out
    assert "intact" in said and spoken(verify_file(sealed[2]).last) in said
    assert main(["verify", str(changed)]) == 1
    assert "The job's head was changed." in capsys.readouterr().out
    file = tmp_path / "copy.db"
    backup(sealed[0] / "jobs.db", file)
    assert main(["verify", str(file)]) == 0
    assert "1 of them are sealed" in capsys.readouterr().out
    (tmp_path / "none").write_bytes(b"nothing")
    assert main(["verify", str(tmp_path / "none")]) == 1
