"""Nothing lost, nothing down: bad jobs, many at once, live pages, Enter."""

import asyncio
import io
import json
import re
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from datetime import UTC, datetime
from html.parser import HTMLParser

import pytest
from PIL import Image
from sqlalchemy import event, update
from starlette.requests import Request

from fairline.core.evacuate.records import Isolation
from fairline.core.job import Job
from fairline.core.stages import TITLES as STAGES
from fairline.demo.jobs import bindery
from fairline.store import jobs
from fairline.store.models import EntryRow, JobRow, RecordRow
from fairline.web.frame import live
from fairline.web.frame.request_context import RequestContext
from tests.databases import SERVER
from tests.support import make_joints

NOW = datetime(2026, 3, 1, 9, tzinfo=UTC)


def job_of(client, job_id):
    return Job.model_validate_json(client.get(f"/api/jobs/{job_id}").content)


# --- a change that is not kept -------------------------------------------------------------------


class NotKeptError(Exception):
    """The disk is full, the job cannot be judged: nothing of the change is kept."""


@pytest.mark.parametrize("kept", [True, False])
def test_nobody_sees_a_change_or_builds_on_it_before_it_is_kept(demo, kept):
    """A page that is opened while it is judged shows what is kept; so does one opened after."""
    request = Request({"type": "http", "headers": [], "app": demo.app})
    with demo.app.state.database.session() as one, demo.app.state.database.session() as another:
        writer, reader = RequestContext(request, one), RequestContext(request, another)
        before = reader.judged(1).job.records

        def change(run):
            with writer.change() as session:
                jobs.append_record(session, 1, Isolation(run=run, by="I", at=NOW))
                assert writer.judged(1).job.records[-1].run == run
                another.rollback()
                assert reader.judged(1).job.records == before
                if not kept:
                    raise NotKeptError

        with nullcontext() if kept else pytest.raises(NotKeptError):
            change("first")
        another.rollback()
        now = reader.judged(1).job.records
        assert [r.run for r in now[len(before) :]] == (["first"] if kept else [])
        # What takes the number of the one that was not kept is seen, and nothing else.
        with writer.change() as session:
            jobs.append_record(session, 1, Isolation(run="then", by="I", at=NOW))
        another.rollback()
        assert reader.judged(1).job.records[: len(now)] == now
        assert [r.run for r in reader.judged(1).job.records[len(now) :]] == ["then"]


# --- one bad job ---------------------------------------------------------------------------------


def with_check(job, at):
    record = {"kind": "leak-check", "joint": "A.gas.end", "found": "clean", "by": "I", "at": at}
    return job | {"uid": "another-job-0001", "records": [*job["records"], record]}


def test_what_made_every_page_answer_500_is_taken_or_refused_whole(demo):
    whole = json.loads(bindery().model_dump_json())
    taken = demo.post("/api/jobs", json=with_check(whole, "2026-03-04T17:40:00"))
    assert taken.status_code == 201  # a moment without a zone is local time
    job_id = taken.json()["id"]
    assert job_of(demo, job_id).leak_checks[-1].at.tzinfo is not None
    for bad in ("0001-01-01T00:00:00", "9999-12-31T23:59:59+00:00", "soon"):
        refused = demo.post("/api/jobs", json=with_check(whole, bad) | {"uid": "one-more-0001"})
        assert refused.status_code == 422, bad
    name = demo.post(
        f"/jobs/{job_id}/survey",
        data={
            "rooms.0.name": "R" * 101,
            "rooms.0.area_m2": "20 m2",
            "heads.0.zone": "A",
            "heads.0.room": "R" * 101,
        },
    )
    assert name.status_code == 200
    outlet = demo.post(f"/jobs/{job_id}/route?part=runs.A", data={"runs.A.outlet": "x" * 60})
    assert outlet.status_code == 422
    run = demo.post(f"/api/jobs/{job_id}/runs/hold").json()["run"]
    tiny = [
        {"seq": n, "t_s": t, "gauge_pa": 2.1e6, "pipe_c": 20.0} for n, t in enumerate((0.0, 5e-324))
    ]
    assert demo.post(f"/api/jobs/{job_id}/runs/{run}/readings", json=tiny).status_code == 200
    for path in ("/", "/api/jobs", *(f"/jobs/{job_id}/{s}" for s in STAGES)):
        assert demo.get(path).status_code == 200, path


def test_a_stored_job_that_cannot_be_read_leaves_the_rest_alone(demo):
    with demo.app.state.database.session() as session:
        session.get(EntryRow, (1, "survey")).document = {"rooms": "none"}
        jobs.touch(session, 1)
        session.commit()
    board = demo.get("/")
    assert board.status_code == 200 and "Cannot be judged." in board.text
    listed = {row["id"]: row for row in demo.get("/api/jobs").json()}
    assert listed[1]["failed"] and len(listed) == 9
    assert demo.get("/jobs/1/survey").status_code == 409
    assert demo.get("/jobs/2/survey").status_code == 200
    out = demo.get("/jobs/1/job.json")
    assert out.status_code == 200 and out.json()["survey"] == {"rooms": "none"}
    assert demo.post("/jobs/1/charge", data={"notes": "x"}).status_code == 422


# --- acknowledged is kept ------------------------------------------------------------------------


def test_a_number_used_again_with_another_value_is_told(demo):
    run = demo.post("/api/jobs/2/runs/pull").json()["run"]
    url = f"/api/jobs/2/runs/{run}/readings"
    one = {"instrument": "g", "seq": 3, "t_s": 3.0, "pa": 90.0}
    assert demo.post(url, json=[one]).json() == {"stored": 1, "known": 0}
    assert demo.post(url, json=[one]).json() == {"stored": 0, "known": 1}
    taken = demo.post(url, json=[one | {"seq": 4}, one | {"pa": 91.0}])
    assert taken.status_code == 409 and "number 3 of g" in taken.json()["detail"]
    assert len(job_of(demo, 2).runs[-1].readings) == 1  # nothing half-kept


def test_a_log_keeps_the_time_of_its_file(demo):
    """A later typed fall lands where it belongs, not beside the first reading."""
    rows = [f"2026-03-04T{hour:02}:00:00+01:00,300,20" for hour in (8, 9)]
    log = "\n".join(["time,gauge_psi,pipe_c", *rows, ""])
    files = {"file": ("log.csv", log.encode())}
    assert demo.post("/jobs/5/runs/hold/file", files=files).status_code == 200
    run = job_of(demo, 5).runs[-1]
    assert run.started_at.isoformat() == "2026-03-04T07:00:00+00:00"
    demo.post("/jobs/5/runs/hold/reading", data={"gauge_pa": "280 psi", "pipe_c": "68 F"})
    later = job_of(demo, 5).runs[-1].readings[-1]
    assert later.t_s > 86_400
    bare = {"file": ("log.csv", b"t_s,gauge_psi,pipe_c\n0,300,20\n3600,300,20\n")}
    demo.post("/jobs/5/runs/hold/file", files=bare)  # it ended just now
    demo.post("/jobs/5/runs/hold/reading", data={"gauge_pa": "299 psi", "pipe_c": "68 F"})
    assert job_of(demo, 5).runs[-1].readings[-1].t_s >= 3600


def at_once(count, work):
    answers = [None] * count

    def one(n):
        answers[n] = work(n).status_code

    threads = [threading.Thread(target=one, args=(n,)) for n in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return answers


def test_of_many_at_once_each_is_kept(demo):
    heads = len(job_of(demo, 5).survey.heads)
    assert set(at_once(8, lambda _: demo.post("/jobs/5/route/heads", data={}))) == {200}
    found = job_of(demo, 5).survey.heads
    assert len(found) == heads + 8 and len({h.zone for h in found}) == heads + 8
    make_joints(demo, 5)
    typed = {"gauge_pa": "300 psi", "pipe_c": "68 F"}
    before = len(job_of(demo, 5).runs)
    assert set(
        at_once(
            12,
            lambda n: demo.post("/jobs/5/runs/hold/reading", data=typed | {"after_s": f"{n} s"}),
        )
    ) == {200}
    runs = job_of(demo, 5).runs
    assert len(runs) == before + 1 and len(runs[-1].readings) == 12


@pytest.mark.parametrize(
    ("url", "data"),
    [
        ("/jobs/1/head", {"name": "Mine"}),
        ("/van", {}),
        ("/rules", {}),
    ],
)
def test_the_last_one_does_not_win_silently(demo, url, data):
    page = demo.get(url).text
    version = re.search(r'name="_version"\s+value="(\d+)"', page).group(1)
    assert demo.post(url, data=data | {"_version": version}).status_code == 200
    late = demo.post(url, data=data | {"_version": version})
    assert late.status_code == 409 and "Somebody else has changed this" in late.text


# --- live pages ----------------------------------------------------------------------------------


async def told(stream, after=""):
    """The next event of a stream that is no heartbeat nor told before; None at its end."""
    while (found := await anext(stream, None)) in (live.HEARTBEAT, after):
        pass
    return found


class Asked:
    """What a stream wants of a request."""


def test_one_look_serves_every_watcher_and_a_heartbeat_says_that_it_lives(monkeypatch):
    monkeypatch.setattr(live, "LOOK_EVERY_S", 0.01)
    monkeypatch.setattr(live, "HEARTBEAT_S", 0.05)
    state = {"revision": 1}
    made = []

    def fragment(request, job_id):
        made.append(state["revision"])
        return f"revision {state['revision']}"

    async def watch():
        streams = live.Live(lambda job_id: state["revision"], fragment, lambda request: True)
        watching = [streams.join(Asked(), 7, "us") for _ in range(20)]
        opened = [streams.events(w) for w in watching]
        first = await asyncio.gather(*(told(s) for s in opened))
        assert set(first) == {"event: live\ndata: revision 1\n\n"}
        state["revision"] = 2
        second = await asyncio.gather(*(told(s, first[0]) for s in opened))
        assert set(second) == {"event: live\ndata: revision 2\n\n"}
        assert made.count(2) == 1  # made once for twenty pages
        late = [streams.events(streams.join(Asked(), 7, "us")) for _ in range(5)]
        assert set(await asyncio.gather(*(told(s) for s in late))) == set(second)
        assert made.count(2) == 1  # and not once more for those that come later
        assert await anext(opened[0]) == live.HEARTBEAT
        assert streams.count == 25
        monkeypatch.setattr(live, "MOST_WATCHERS", 26)
        watching.append(streams.join(Asked(), 7, "us"))
        with pytest.raises(live.FullError, match="Too many pages"):
            streams.join(Asked(), 7, "us")
        state["revision"] = None  # the job is gone
        for stream in opened:
            assert await told(stream) is None
        for watcher in watching:
            streams.leave(watcher)
        assert streams.count == 5

    asyncio.run(watch())


def test_a_stream_ends_with_the_session_that_opened_it(monkeypatch):
    monkeypatch.setattr(live, "LOOK_EVERY_S", 0.01)
    monkeypatch.setattr(live, "ASK_EVERY_S", 0.0)
    may_look = {"Ana", "Bo"}

    async def watch():
        streams = live.Live(lambda job_id: 1, lambda request, job_id: "x", may_look.__contains__)
        ana, bo = (streams.events(streams.join(name, 7, "us")) for name in ("Ana", "Bo"))
        first = await asyncio.gather(told(ana), told(bo))
        may_look.remove("Bo")
        assert await asyncio.wait_for(told(bo, first[1]), 5) is None
        with pytest.raises(TimeoutError):
            await asyncio.wait_for(told(ana, first[0]), 0.2)

    asyncio.run(watch())


def test_of_forty_pages_opened_at_once_one_judges_the_job(demo):
    run = demo.post("/api/jobs/2/runs/pull").json()["run"]
    reading = {"instrument": "g", "seq": 0, "t_s": 1.0, "pa": 60.0}
    demo.post(f"/api/jobs/2/runs/{run}/readings", json=[reading])
    cache = demo.app.state.judged
    before = cache.judgements
    with ThreadPoolExecutor(40) as pool:
        pages = list(pool.map(lambda _: demo.get("/jobs/2/evacuate"), range(40)))
    assert {p.status_code for p in pages} == {200}
    assert cache.judgements - before == 1


# --- Enter ---------------------------------------------------------------------------------------


class Forms(HTMLParser):
    """Of each form: whether it has a text field, and its first button that submits."""

    def __init__(self):
        super().__init__()
        self.forms, self.open = [], None

    def handle_starttag(self, tag, attrs):
        found = dict(attrs)
        if tag == "form":
            self.open = {"action": found.get("action"), "text": False, "first": None}
            self.forms.append(self.open)
        elif self.open is None:
            return
        elif tag == "input" and found.get("type", "text") in ("text", "number", "search"):
            self.open["text"] = True
        elif tag == "button" and found.get("type", "submit") == "submit":
            self.open["first"] = self.open["first"] or found

    def handle_endtag(self, tag):
        if tag == "form":
            self.open = None


DESTROYS = ("_add", "_remove", "_put", "_edit", "found")


def test_enter_in_a_text_field_presses_a_harmless_button(demo):
    """Enter presses a form's first button: on no page does that take out or change what stands."""
    demo.post("/jobs/9/route?part=runs.A", data={"runs.A.kit": ""})
    for after, psi in (("0 min", "300 psi"), ("60 min", "280 psi")):
        demo.post(
            "/jobs/9/runs/hold/reading", data={"gauge_pa": psi, "pipe_c": "68 F", "after_s": after}
        )
    paths = ["/", "/shelf", "/shelf/1", "/van", "/rules", "/jobs/new", "/jobs/1/head"]
    for job in (1, 6, 7, 8, 9):
        paths += [f"/jobs/{job}/{stage}" for stage in STAGES]
        paths += [f"/jobs/{job}/route?part={p}" for p in ("system", "runs.A", "drains")]
        paths += [f"/jobs/{job}/mount?part={p}" for p in ("A", "C", "outdoor")]
        paths += [f"/jobs/{job}/rules", f"/jobs/{job}/cut-plan"]
    seen = 0
    for path in paths:
        page = Forms()
        page.feed(demo.get(path).text)
        for form in page.forms:
            first = form["first"]
            if not form["text"] or first is None or "disabled" in first:
                continue
            seen += 1
            assert first.get("name") not in DESTROYS, (path, form)
            assert "formaction" not in first, (path, form)
            assert not str(form["action"]).endswith(("/strike", "/out", "/checks")), (path, form)
    assert seen > 100


def test_a_warning_is_not_led_on_from_as_if_it_were_none(demo):
    felt = {"place": "A.gas.end", "look": "good", "how": "by feel", "by": "Ida"}
    demo.post("/jobs/1/flare/joints", data=felt | {"did": "tightened", "_done": "1 min"})
    page = demo.get("/jobs/1/flare").text
    assert "plate-watch" in page and "On to pressure test, with this left open" in page
    sound = demo.get("/jobs/1/pressure-test").text
    assert "plate-holds" in sound and "On to wire</a>" in sound


# --- files and slow bodies -----------------------------------------------------------------------


def test_what_a_newer_program_wrote_is_named_and_the_job_opens(client):
    whole = json.loads(bindery().model_dump_json())
    newer = whole | {"format_version": 9, "weather": {"rain": True}, "uid": "newer-job-0001"}
    newer["route"] = whole["route"] | {"slope": 3}
    newer["records"] = [*whole["records"], {"kind": "blessing", "by": "I"}]
    taken = client.post("/api/jobs", json=newer)
    assert taken.status_code == 201
    left = taken.json()["left_out"]
    assert set(left) == {
        "format version 9",
        "weather",
        "route.slope",
        f"records.{len(whole['records'])}",
    }
    job = job_of(client, taken.json()["id"])
    assert job.route == bindery().route and len(job.records) == len(whole["records"])
    files = {"file": ("job.json", json.dumps(newer | {"uid": "newer-job-0002"}).encode())}
    page = client.post("/jobs/import", files=files)
    assert page.status_code == 200 and "route.slope" in page.text
    # A wrong value is no newer program's: it is refused, and named.
    wrong = client.post("/api/jobs", json=newer | {"uid": "newer-job-0003", "head": {"name": ""}})
    assert wrong.status_code == 422 and "head.name" in wrong.text


@pytest.mark.parametrize(("over", "status"), [(0, 201), (1, 422)])
def test_a_file_has_so_many_readings_and_no_more(client, monkeypatch, over, status):
    monkeypatch.setattr("fairline.store.job_file.MOST_READINGS", 30)
    whole = json.loads(bindery().model_dump_json()) | {"uid": "many-readings-1"}
    readings = [{"seq": n, "t_s": 1.0 * n, "pa": 100.0} for n in range(30 + over)]
    whole["runs"] = [
        {"uid": "r", "kind": "pull", "started_at": "2026-03-04T08:00:00Z", "readings": readings}
    ]
    assert client.post("/api/jobs", content=json.dumps(whole)).status_code == status


def test_a_body_that_does_not_come_to_its_end_is_let_go(client, monkeypatch):
    monkeypatch.setattr("fairline.web.frame.security.PAUSE_S", 0.05)
    sent = []

    async def slow():
        if sent:
            return await asyncio.Event().wait()
        sent.append(1)
        return {"type": "http.request", "body": b"[", "more_body": True}

    async def tell(message):
        answers.append(message)

    answers: list = []
    scope = {
        "type": "http",
        "method": "POST",
        "path": "/api/jobs",
        "query_string": b"",
        "headers": [(b"host", b"127.0.0.1")],
        "http_version": "1.1",
        "scheme": "http",
        "server": ("127.0.0.1", 80),
        "client": ("127.0.0.1", 1),
        "root_path": "",
    }
    asyncio.run(client.app(scope, slow, tell))
    assert answers[0]["status"] == 408


# --- the life of a job ---------------------------------------------------------------------------


def test_a_job_that_was_handed_over_stands_as_it_is(demo):
    before = job_of(demo, 1)
    done = demo.post("/jobs/1/hand-over/done", data={"by": "Ida"})
    assert done.status_code == 200 and "Nothing is changed here" in done.text
    handed = job_of(demo, 1).handed_over
    assert handed.by == "Ida" and set(handed.calls) == set(STAGES)
    run = before.runs[-1].uid
    readings = [{"instrument": "late", "seq": 1, "t_s": 1.0, "pa": 50.0, "gauge_pa": None}]
    changes = (
        demo.post("/jobs/1/charge", data={"notes": "later"}),
        demo.post("/jobs/1/head", data={"name": "Other"}),
        demo.post("/jobs/1/route/heads", data={}),
        demo.post("/api/jobs/1/runs/pull"),
        demo.post(f"/api/jobs/1/runs/{run}/readings", json=readings),
        demo.post("/jobs/1/hand-over/done", data={"by": "Ida"}),
        demo.post("/jobs/1/charge/undo"),
    )
    assert {c.status_code for c in changes} <= {409, 422, 200} and changes[0].status_code == 409
    after = job_of(demo, 1)
    assert after.charge == before.charge and after.head == before.head
    assert (after.route, after.runs) == (before.route, before.runs)
    # What is judged otherwise later stands beside the call of that day, on page and in record.
    with demo.app.state.database.session() as session:
        row = session.query(RecordRow).filter_by(job_id=1, kind="handed-over").one()
        calls = {**row.document["calls"], "survey": {"verdict": "stop", "because": "then"}}
        row.document = {**row.document, "calls": calls}
        session.query(JobRow).filter_by(id=1).one().revision += 1
        session.commit()
    demo.app.state.judged.forget([1])  # a record changes only by this test's own hand
    for path in ("/jobs/1/survey", "/jobs/1/record"):
        assert "That day Survey was called" in demo.get(path).text
    brief = demo.get("/").text
    assert "handed over" in brief
    again = demo.post("/jobs/1/hand-over/open", data={"by": "Ida"})
    assert again.status_code == 422
    demo.post("/jobs/1/hand-over/open", data={"by": "Ida", "reason": "a fan rattles"})
    assert demo.post("/jobs/1/charge", data={"notes": "later"}).status_code == 200
    assert "a fan rattles" in demo.get("/jobs/1/record").text
    assert demo.get("/jobs/1/record.pdf").status_code == 200


def test_a_job_is_copied_without_what_was_done(demo):
    whole = job_of(demo, 6)
    made = demo.post("/jobs/6/copy", data={"name": "Next door"})
    job = job_of(demo, int(str(made.url).split("/jobs/")[1].split("/")[0]))
    assert job.head.name == "Next door" and job.head.customer == "" and job.uid != whole.uid
    assert job.equipment == whole.equipment and job.survey.heads == whole.survey.heads
    assert {e: r.legs for e, r in job.route.runs.items()} == {
        e: r.legs for e, r in whole.route.runs.items()
    }
    assert job.records == () and job.runs == () and job.survey.boxes == {}
    assert all(r.built_m is None for r in job.route.runs.values())
    assert demo.post("/jobs/6/copy", data={"name": " "}).status_code == 422


def test_a_job_is_put_away_brought_back_and_deleted_by_its_name(demo):
    name = job_of(demo, 3).head.name
    demo.post("/jobs/3/put-away")
    assert name not in demo.get("/").text and name in demo.get("/?away=true").text
    assert 3 not in [j["id"] for j in demo.get("/api/jobs").json()]
    assert [j["id"] for j in demo.get("/api/jobs?away=true").json()] == [3]
    demo.post("/jobs/3/bring-back")
    assert name in demo.get("/").text
    assert demo.post("/jobs/3/delete", data={"typed": name[:-1]}).status_code == 422
    assert demo.get("/jobs/3/survey").status_code == 200
    demo.post("/jobs/3/delete", data={"typed": name})
    assert demo.get("/jobs/3/survey").status_code == 404
    assert len(demo.get("/api/jobs").json()) == 8


def test_a_picture_belongs_to_any_thing(demo):
    image = io.BytesIO()
    Image.new("RGB", (40, 30), "red").save(image, "PNG")
    url = "/api/jobs/6/pictures"
    taken = demo.post(f"{url}?of=nameplate&place=outdoor", content=image.getvalue())
    assert taken.status_code == 201
    assert demo.post(f"{url}?of=hole&place=Z", content=image.getvalue()).status_code == 404
    assert demo.post(f"{url}?of=soul&place=A", content=image.getvalue()).status_code == 422
    assert demo.post(f"{url}?of=run&place=A", content=b"no").status_code == 422
    for thing, status in (("hole:A", 200), ("place:", 404)):
        files = {"file": ("p.png", image.getvalue())}
        data = {"thing": thing}
        assert demo.post("/jobs/6/pictures", data=data, files=files).status_code == status
    listed = demo.get(url).json()
    assert [(p["of"], p["place"], p["kept"]) for p in listed] == [
        ("nameplate", "outdoor", True),
        ("hole", "A", True),
    ]
    assert demo.get(f"{url}/{listed[0]['name']}.jpg").headers["content-type"] == "image/jpeg"
    assert "Nameplate: outdoor" in demo.get("/jobs/6/record").text
    files = {"file": ("job.zip", demo.get("/jobs/6/job.zip").content)}
    copy = demo.post("/jobs/import", data={"as_copy": "yes"}, files=files)
    again = int(str(copy.url).split("/jobs/")[1].split("/")[0])
    assert [(p["of"], p["kept"]) for p in demo.get(f"/api/jobs/{again}/pictures").json()] == [
        ("nameplate", True),
        ("hole", True),
    ]


# --- the machine ---------------------------------------------------------------------------------


def on_every_connection(client, pragma):
    """Set something of SQLite on the one connection that the server has."""
    client.app.state.database.engine.dispose()

    def set_it(connection, _record):
        connection.execute(pragma)

    event.listen(client.app.state.database.engine, "connect", set_it)
    return lambda: (
        event.remove(client.app.state.database.engine, "connect", set_it),
        client.app.state.database.engine.dispose(),
    )


@pytest.mark.skipif(bool(SERVER), reason="of SQLite")
@pytest.mark.parametrize(
    ("pragma", "status", "words"),
    [("PRAGMA max_page_count=1", 507, "disk is full"), ("PRAGMA query_only=ON", 503, "written")],
)
def test_trouble_of_the_machine_is_said_and_passes(demo, pragma, status, words):
    text = "x" * 4000
    with demo.app.state.database.session() as session:
        session.execute(update(JobRow).values(stale=True))
        session.commit()
    over = on_every_connection(demo, pragma)
    for n in range(200):  # the last page of a table takes a few more before the disk is full
        kept = demo.post("/jobs/2/charge", data={"notes": f"{n}{text[:3900]}", "_turn": str(n)})
        if kept.status_code != 200:
            break
    assert kept.status_code == status and words in kept.text and "goes on by itself" in kept.text
    assert demo.get("/jobs/2/charge").status_code == 200  # reading goes on
    assert demo.get("/").status_code == 200  # the board too, though it may have to judge
    before = job_of(demo, 2).charge
    readings = demo.post("/api/jobs/2/runs/pull")
    assert readings.status_code in (status, 201)
    over()
    assert job_of(demo, 2).charge == before  # nothing half-kept
    good = demo.post("/jobs/2/charge", data={"notes": "there is room again", "_turn": "999"})
    assert good.status_code == 200 and job_of(demo, 2).charge.notes == "there is room again"
