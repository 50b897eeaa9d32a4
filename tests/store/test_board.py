"""What the board keeps of each job is what judging it says; one bad job is only its own."""

import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import select, text, update

from fairline.core.brief import brief
from fairline.core.charge.entry import ChargeEntry
from fairline.core.found_by import folded
from fairline.core.hand_over.records import Addition, Visit
from fairline.core.job import JobHead
from fairline.core.line import work
from fairline.core.practice import Practice
from fairline.core.survey.stage import Room, SurveyEntry
from fairline.demo.jobs import bindery, darkroom, letterpress
from fairline.demo.systems import gallery
from fairline.store import board, entries, house, jobs
from fairline.store.database import open_database
from fairline.store.dialect import begin_write, jobs_with, writing
from fairline.store.edits import Editing
from fairline.store.models import EntryRow, JobRow
from tests.databases import SERVER, url_of

DAY = datetime(2026, 11, 28, 9, tzinfo=UTC)
CHANGES = st.lists(st.sampled_from(["head", "survey", "charge", "run", "practice"]), max_size=6)


def change(session, job_id, what, n):
    if what == "head":
        jobs.set_head(session, job_id, JobHead(name=f"Job {n}", practice=True))
    elif what == "survey":
        entry = SurveyEntry(rooms=(Room(name=f"Room {n}", area_m2=20.0 + n),))
        entries.save_over(session, job_id, "survey", entry, Editing())
    elif what == "charge":
        entries.save_over(session, job_id, "charge", ChargeEntry(notes=str(n)), Editing())
    elif what == "run":
        jobs.begin_run(session, job_id, "hold", "I")
    else:
        school = ("hour", "quick")[n % 2]
        house.set_practice(session, Practice(schools={"pressure": school}))


@settings(max_examples=12)
@given(steps=CHANGES)
def test_what_is_kept_is_what_judging_says(tmp_path_factory, steps):
    from fairline.store.database import open_database

    database = open_database(url_of(tmp_path_factory.mktemp("b")))
    with database.session() as session:
        ids = [jobs.import_job(session, make()) for make in (bindery, letterpress)]
        for n, what in enumerate(steps):
            change(session, ids[n % 2], what, n)
            session.flush()
        for job_id in board.stale(session, ids):
            board.settle(session, job_id)
        practice, _ = house.practice(session)
        for row in board.page(session)[0]:
            job = jobs.load(session, row.id).job
            made = brief(job, work(job, practice))
            assert row.brief == made.model_copy(update={"found_by": ""})
            assert session.get(JobRow, row.id).found_by == made.found_by
        assert board.stale(session, ids) == []
    database.close()


def test_what_needs_a_person_comes_first_page_by_page(database):
    with database.session() as session:
        for make in (bindery, darkroom, letterpress, gallery):
            jobs.import_job(session, make())
        assert board.renew(session) == 4
        rows, count = board.page(session)
        assert count == 4 and [r.brief.urgency for r in rows] == sorted(
            r.brief.urgency for r in rows
        )
        assert (rows[0].brief.name, rows[-1].brief.name) == ("Gallery", "Bindery")
        second, _ = board.page(session, 2, 3)
        assert [r.id for r in second] == [rows[3].id]


@pytest.mark.parametrize("spoil", ["entry", "head"])
def test_a_stored_job_that_cannot_be_judged_is_only_its_own(database, spoil):
    with database.session() as session:
        bad, good = (jobs.import_job(session, make()) for make in (bindery, letterpress))
        board.renew(session)
        if spoil == "entry":
            session.get(EntryRow, (bad, "survey")).document = {"rooms": "none"}
        else:
            session.get(JobRow, bad).head = {"name": ""}
        jobs.touch(session, bad)
        session.flush()
        with pytest.raises(board.CannotJudgeError):
            board.settle(session, bad)
        assert board.renew(session) == 2
        found = {r.id: r.brief for r in board.page(session)[0]}
        assert found[bad].failed and not found[good].failed
        assert board.page(session)[0][0].id == bad  # before all others
        assert jobs.document(session, bad)["uid"] == "kestrel-bindery-0001"


def test_the_board_judges_while_others_write_and_keeps_nothing_that_is_overtaken(
    database, monkeypatch
):
    with database.session() as session:
        job_id = jobs.import_job(session, bindery())
        board.renew(session)
        jobs.set_head(session, job_id, JobHead(name="first"))
        session.commit()
    judged = board.judged_brief
    written = []

    def meanwhile(session, job_id):
        found = judged(session, job_id)
        if not written:  # another's save while this one judges: it is not kept waiting
            with database.session() as other:
                begin_write(other)
                jobs.set_head(other, job_id, JobHead(name="second"))
                other.commit()
            written.append(job_id)
        return found

    monkeypatch.setattr(board, "judged_brief", meanwhile)
    with database.session() as session:
        assert board.settle_beside(session, job_id).name == "first"
        assert board.stale(session, [job_id]) == [job_id]  # what was overtaken is not kept
        assert board.settle_beside(session, job_id).name == "second"
        assert board.stale(session, [job_id]) == []


def test_a_brief_of_another_practice_is_not_kept(database, monkeypatch):
    with database.session() as session:
        job_id = jobs.import_job(session, bindery())
        board.renew(session)
        house.set_practice(session, Practice(schools={"pressure": "quick"}))
        session.commit()
    judged = board.judged_brief

    def meanwhile(session, job_id):
        found = judged(session, job_id)
        with database.session() as other:
            house.set_practice(other, Practice(schools={"pressure": "hour"}))
            other.commit()
        return found

    monkeypatch.setattr(board, "judged_brief", meanwhile)
    with database.session() as session:
        board.settle_beside(session, job_id)
        assert board.stale(session, [job_id]) == [job_id]


@pytest.mark.skipif(bool(SERVER), reason="of SQLite")
def test_changes_of_one_process_take_turns_and_none_finds_the_database_busy(database):
    """Each holds it for longer than any of them waits for another process."""
    order = []

    def change(n):
        with database.session() as session:
            session.execute(text("PRAGMA busy_timeout=50"))
            with writing(session):
                order.append(n)
                time.sleep(0.1)
                order.append(n)
                session.commit()

    with ThreadPoolExecutor(6) as pool:
        list(pool.map(change, range(6)))
    assert sorted(order) == sorted([*range(6), *range(6)])
    assert all(a == b for a, b in zip(order[::2], order[1::2], strict=True))


@given(st.text(max_size=60))
def test_folding_is_done_once_and_loses_no_word(text):
    once = folded(text)
    assert folded(once) == once and "  " not in once


@pytest.mark.parametrize(
    ("words", "found"),
    [
        ("atelier øst", True),
        ("atelier ost", True),
        ("ATELIER", True),
        ("zoe", True),  # the customer is Zoë
        ("SER-77", True),
        ("2026-11-28", True),
        ("blue shed zoe", True),  # each word anywhere
        ("red shed", False),
        ("%", False),
        ("", True),
    ],
)
def test_a_job_is_found_by_every_word_of_it(database, words, found):
    with database.session() as session:
        head = JobHead(name="Atelier Øst", site="Blue shed", customer="Zoë")
        number = jobs.create(session, head)
        said = Addition(words="SER-77 changed", by="Ida Łuk", at=DAY)
        jobs.append_record(session, number, said)
        board.settle_stored(session, number)
        rows, count = board.page(session, asked=board.Asked(words))
        assert (len(rows), count) == ((1, 1) if found else (0, 0))


def test_the_board_is_narrowed_by_stage_day_and_person(database):
    with database.session() as session:
        number = jobs.create(session, JobHead(name="One"))
        said = Addition(words="x", by="Ida Łuk", at=DAY)
        jobs.append_record(session, number, said)
        visit = Visit(on="2027-05-31", by="Mo", at=DAY)
        jobs.append_record(session, number, visit)
        board.settle_stored(session, number)

        def of(**asked):
            return board.count(session, board.Asked(**asked))

        assert (of(stage="survey"), of(stage="wire")) == (1, 0)
        assert (of(day="2027-05-31"), of(day="2027-05-30")) == (1, 0)
        assert (of(person="ida łuk"), of(person="Luk"), of(person="Mo")) == (1, 0, 1)
        assert [r.id for r in board.due(session, "2027-05-31")] == [number]
        assert board.due(session, "2027-05-30") == []
        jobs.put_away(session, number)
        assert board.due(session, "2027-05-31") == []


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_the_index_of_words_finds_what_a_plain_search_would(searched, data):
    """Parts of words, long and short, with quotes and wildcards in them."""
    with searched.session() as session:
        kept = dict(session.execute(select(JobRow.id, JobRow.found_by)).all())
        whole = data.draw(st.sampled_from(list(kept.values())))
        begin = data.draw(st.integers(0, max(0, len(whole) - 8)))
        part = whole[begin : begin + data.draw(st.integers(1, 8))]
        asked = data.draw(st.sampled_from([part, f"{part} kestrel", "%", 'a"b', "_", part * 2]))
        words = folded(asked).split()
        wanted = {id for id, text in kept.items() if all(w in text for w in words)}
        rows, count = board.page(session, size=100, asked=board.Asked(asked))
        assert {row.id for row in rows} == wanted and count == len(wanted)


@pytest.mark.skipif(not SERVER, reason="of PostgreSQL")
def test_postgresql_asks_its_index_of_words_as_well(searched):
    with searched.session() as session:
        session.execute(text("SET enable_seqscan = off"))  # with four jobs it would read them all
        rare = select(JobRow.id).where(*jobs_with(session, ["letterpress"]))
        words = {"compile_kwargs": {"literal_binds": True}}
        asked = str(rare.compile(session.get_bind(), **words))
        plan = "\n".join(session.scalars(text(f"EXPLAIN {asked}".replace(":", "\\:"))))
        assert "job_search" in plan


@pytest.fixture(scope="module")
def searched(tmp_path_factory):
    found = open_database(url_of(tmp_path_factory.mktemp("s")))
    with found.session() as session:
        for make in (bindery, letterpress):
            board.settle(session, jobs.import_job(session, make()))
        gone = jobs.import_job(session, bindery(), as_copy=True)
        board.settle(session, gone)
        jobs.remove(session, gone)
        session.commit()
    yield found
    found.close()


def test_more_than_are_counted_are_told_so(database):
    with database.session() as session:
        for n in range(board.COUNTED + 3):
            jobs.create(session, JobHead(name=f"Loft {n}"))
        session.execute(update(JobRow).values(found_by="loft"))
        rows, count = board.page(session, asked=board.Asked("loft"))
        assert (len(rows), count) == (board.PAGE, board.COUNTED)
        last = -(-(board.COUNTED + 3) // board.PAGE)
        rows, count = board.page(session, last, asked=board.Asked("loft"))
        assert count == board.COUNTED and len(rows) == (board.COUNTED + 3) % board.PAGE
        assert board.page(session)[1] == board.COUNTED + 3
