"""Who is let in: every route by every role against one table, sessions, tries, tokens, links."""

import re
from datetime import timedelta

import pytest

from fairline.core.people import ROLES, may
from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.store import clock, people
from fairline.web.app import create_app
from fairline.web.frame.gate import COOKIE, rights
from tests.client import TestClient
from tests.conftest import BASE

PASSWORD = "correct horse staple"


def routes(found):
    """Every route of an application, method and path."""
    for one in found:
        if hasattr(one, "original_router"):
            yield from routes(one.original_router.routes)
        elif getattr(one, "methods", None):
            yield from ((m, one.path) for m in one.methods - {"HEAD", "OPTIONS"})


@pytest.fixture(scope="module")
def house(tmp_path_factory):
    """An application with somebody of every role; each with a client that is signed in."""
    folder = tmp_path_factory.mktemp("house")
    load_demo(Settings(folder))
    app = create_app(Settings(folder))
    with TestClient(app, base_url=BASE, follow_redirects=False) as client:
        with app.state.database.session() as session:
            for role in ROLES:
                job = 6 if role == "electrician" else None
                people.add(session, f"The {role}", role, PASSWORD, job)
            session.commit()
        clients = {"nobody": client}
        for role in ROLES:
            clients[role] = TestClient(app, base_url=BASE, follow_redirects=False)
            answer = clients[role].post(
                "/sign-in", data={"name": f"the {role.upper()}", "password": PASSWORD}
            )
            assert answer.status_code == 303 and COOKIE in answer.cookies
        yield clients


def test_every_route_stands_in_the_table_and_nothing_else(house):
    assert set(routes(house["owner"].app.routes)) == set(rights())
    assert {a.right for a in rights().values()} == {
        *("open", "any", "read", "work", "answer", "house", "people")
    }


def filled(path, job):
    """A path with something in its places: of a job that is there, of things that are none."""
    made = (
        path.replace("{job_id}", str(job))
        .replace("{sheet_id}", "1")
        .replace("{stage:stage}", "wire")
    )
    return re.sub(r"\{[^}]+\}", "9", made)


def asked(client, method, path):
    return client.request(method, path, headers={"accept": "text/html"}).status_code


@pytest.mark.parametrize("who", ["nobody", *ROLES])
def test_every_route_by_every_role_is_as_the_table_says(house, who):
    """Empty posts: what is let in is refused by its own fields, or not there, never by the gate."""
    for (method, path), asks in rights().items():
        if path in ("/sign-out", "/demo", "/evacuate/live") or path.endswith("/live"):
            continue
        may_act = method == "POST" and who != "nobody" and asks.right != "open"
        if allowed(who, asks) and (may_act or who not in ("nobody", "owner", "electrician")):
            continue  # what they do is tested where they are; here, who may not
        status = asked(house[who], method, filled(path, 6))
        if asks.right == "open":
            assert status not in (401, 403), (who, method, path)
        elif who == "nobody":
            assert status == (401 if path.startswith("/api/") else 303), (method, path)
        elif who == "electrician" and "{job_id}" not in path and asks.right != "any":
            assert status == 404, (who, method, path)
        elif not allowed(who, asks):
            assert status == 403, (who, method, path)
        else:
            assert status not in (401, 403), (who, method, path, status)


def allowed(who, asks):
    if who == "nobody":
        return asks.right == "open"
    return asks.right in ("any", "open") or may(who, asks.right)


def test_an_electrician_of_another_firm_sees_one_job(house):
    client = house["electrician"]
    assert client.get("/jobs/6/wire").status_code == 200
    for path in ("/jobs/7/wire", "/jobs/7/record", "/api/jobs/7", "/", "/shelf", "/days"):
        assert client.get(path).status_code == 404, path
    assert client.post("/jobs/7/wire/dead").status_code == 404


def test_who_did_it_is_who_is_signed_in(house):
    def did(role, by):
        data = {"words": "Looked at it", "by": by}
        answer = house[role].post("/jobs/9/hand-over/additions", data=data)
        assert answer.status_code == 303, answer.text[:300]
        job = house["owner"].get("/api/jobs/9").json()
        return next(r["by"] for r in reversed(job["records"]) if r["kind"] == "addition")

    assert did("installer", "Somebody else") == "The installer"
    assert did("installer", "") == "The installer"
    assert did("lead", "Somebody else") == "Somebody else"
    assert did("lead", "") == "The lead"


def test_a_session_ends_where_it_is_signed_out(house):
    client = TestClient(house["owner"].app, base_url=BASE, follow_redirects=False)
    client.post("/sign-in", data={"name": "the guest", "password": PASSWORD})
    stolen = client.cookies[COOKIE]
    assert client.get("/").status_code == 200
    out = client.post("/sign-out")
    assert out.headers["location"] == "/sign-in" and "cache" in out.headers["clear-site-data"]
    thief = TestClient(house["owner"].app, base_url=BASE, follow_redirects=False)
    thief.cookies.set(COOKIE, stolen)
    assert thief.get("/").status_code == 303
    assert thief.get("/", headers={"hx-request": "true"}).headers["hx-redirect"] == "/sign-in"
    assert thief.get("/jobs/6/wire").headers["location"] == "/sign-in?back=/jobs/6/wire"


def test_what_one_person_sends_is_not_taken_for_anothers(house):
    """A page left open, or an act that waited: by the person that it was shown to."""
    guest = TestClient(house["owner"].app, base_url=BASE, follow_redirects=False)
    act = {"x-fairline-once": "abc", "x-fairline-person": "1"}  # the owner's
    path, words = "/jobs/9/hand-over/additions", {"words": "Looked at it", "by": ""}
    assert guest.post(path, data=words, headers=act).status_code == 401
    here = act | {"hx-request": "true", "hx-current-url": f"{BASE}/jobs/9/wire?part=power"}
    led = guest.post(path, data=words, headers=here).headers["hx-redirect"]
    assert led == "/sign-in?back=/jobs/9/wire%3Fpart%3Dpower"
    mine = house["installer"].get("/").headers["fairline-person"]
    for whose, status in (("1", 401), (mine, 303), ("0", 303)):
        headers = {"x-fairline-once": f"by {whose}", "x-fairline-person": whose}
        answer = house["installer"].post(path, data=words, headers=headers)
        assert answer.status_code == status, whose


@pytest.mark.parametrize("back", ["//evil.test/x", "https://evil.test/", "\\\\evil.test", "/days"])
def test_signing_in_leads_to_this_server_only(house, back):
    client = TestClient(house["owner"].app, base_url=BASE, follow_redirects=False)
    data = {"name": "the guest", "password": PASSWORD, "back": back}
    led = client.post("/sign-in", data=data).headers["location"]
    assert led.startswith("/") and not led.startswith(("//", "/\\")) and "evil.test" not in led[:2]


def test_wrong_passwords_wait_longer_and_longer(tmp_path, monkeypatch):
    begin, later = clock.now(), timedelta()  # it stands still: hashing takes its time
    monkeypatch.setattr(people, "now", lambda: begin + later)
    app = create_app(Settings(tmp_path))
    with TestClient(app, base_url=BASE, follow_redirects=False) as client:
        with app.state.database.session() as session:
            people.add(session, "Ida", "owner", PASSWORD)
            session.commit()

        def tried(password):
            return client.post("/sign-in", data={"name": "Ida", "password": password})

        for _ in range(5):
            answer = tried("wrong")
            assert answer.status_code == 422 and "name or password is wrong" in answer.text
        assert "wait 30 s" in tried(PASSWORD).text  # the right one waits as well
        assert client.post("/sign-in", data={"name": "Bo", "password": "x"}).status_code == 422
        later += timedelta(seconds=29)
        assert "wait" in tried(PASSWORD).text
        later += timedelta(seconds=2)
        assert "wait 60 s" in [tried("wrong"), tried("wrong")][1].text
        later += timedelta(seconds=61)
        assert tried(PASSWORD).status_code == 303
        later += people.SESSION - timedelta(minutes=1)
        assert client.get("/").status_code == 200  # a wet week, and more
        later += people.SESSION + timedelta(minutes=1)
        assert client.get("/").status_code == 303


def test_somebody_is_let_in_by_a_link_that_is_used_once(house):
    owner = house["owner"]
    asked_for = {"name": "Bo Lind", "role": "installer"}
    page = owner.post("/people", data=asked_for).text
    link = re.search(r'id="link">https?://[^/]+(/join/[^<]+)<', page)[1]
    assert "<svg" in page
    client = TestClient(owner.app, base_url=BASE, follow_redirects=False)
    for password, again, told in (
        ("short", "short", "at least 12 letters"),
        ("fairlinefairline", "fairlinefairline", "guessed at once"),
        (PASSWORD, "another", "not the same"),
    ):
        answer = client.post(link, data={"password": password, "again": again})
        assert answer.status_code == 422 and told in answer.text
    assert client.get(link).status_code == 200
    joined = client.post(link, data={"password": PASSWORD, "again": PASSWORD})
    assert joined.status_code == 303 and client.get("/").status_code == 200
    assert client.get(link).status_code == 404
    assert client.post(link, data={"password": PASSWORD, "again": PASSWORD}).status_code == 404
    for wrong, told in (
        ({"name": "bo LIND", "role": "installer"}, "is there already"),
        ({"name": "", "role": "installer"}, "name of at most"),
        ({"name": "Cy", "role": "king"}, "choose what they may do"),
        ({"name": "Cy", "role": "electrician"}, "say which job"),
        ({"name": "Cy", "role": "electrician", "job": "9999"}, "there is no such job"),
    ):
        refused = owner.post("/people", data=wrong)
        assert refused.status_code == 422 and told in refused.text
    with owner.app.state.database.session() as session:
        bo = people.named(session, "Bo Lind").id
        last = people.named(session, "The owner").id
    assert owner.post(f"/people/{bo}", data={"what": "end"}).status_code == 200
    assert client.get("/").status_code == 303  # at once
    assert "the last owner stays" in owner.post(f"/people/{last}", data={"what": "end"}).text
    assert "the last owner stays" in owner.post(f"/people/{last}", data={"what": "guest"}).text


def test_an_instruments_token_opens_the_runs_of_one_job(house):
    page = house["lead"].post("/me/tokens", data={"words": "gauge", "job": "6"}).text
    token = re.search(r'id="token">([^<]+)<', page)[1]
    tool = TestClient(house["owner"].app, base_url=BASE, follow_redirects=False)
    headers = {"authorization": f"Bearer {token}"}
    assert tool.get("/api/jobs/6/named", headers=headers).status_code == 200
    for path in ("/api/jobs/7/named", "/api/jobs/6", "/jobs/6/wire", "/api/jobs", "/"):
        assert tool.get(path, headers=headers).status_code == 404, path
    own = house["lead"].get("/me").text
    key = re.search(r'action="/me/sessions/(\d+)/end" class="row">\s*<input[^>]*><span>gauge', own)
    assert house["installer"].post(f"/me/sessions/{key[1]}/end").status_code == 404
    assert house["lead"].post(f"/me/sessions/{key[1]}/end").status_code == 303
    assert tool.get("/api/jobs/6/named", headers=headers).status_code == 401
    for who, job in (("guest", "6"), ("electrician", "7")):  # nobody lends more than he has
        refused = house[who].post("/me/tokens", data={"words": "gauge", "job": job})
        assert refused.status_code == 422 and "work on yourself" in refused.text
    lent = house["electrician"].post("/me/tokens", data={"words": "gauge", "job": "6"}).text
    headers = {"authorization": f"Bearer {re.search(r'id=.token.>([^<]+)<', lent)[1]}"}
    assert tool.get("/api/jobs/6/named", headers=headers).status_code == 200
    with tool.app.state.database.session() as session:
        whose = people.named(session, "The electrician").id
        people.set_role(session, whose, "guest")
        session.commit()
    assert tool.get("/api/jobs/6/named", headers=headers).status_code == 401
    with tool.app.state.database.session() as session:
        people.set_role(session, whose, "electrician", 6)
        session.commit()
    whole = house["guest"].post("/me/tokens", data={"words": "reader"}).text
    headers = {"authorization": f"Bearer {re.search(r'id=.token.>([^<]+)<', whole)[1]}"}
    assert tool.get("/api/jobs/6", headers=headers).status_code == 200
    assert tool.post("/api/jobs", headers=headers).status_code == 403


def test_a_shared_link_reads_one_paper_until_it_ends(house, monkeypatch):
    lead = house["lead"]
    page = lead.post("/jobs/6/sharing", data={"paper": "owner", "until": "2099-05-31"}).text
    link = re.search(r'id="link">https?://[^/]+(/shared/[^<]+)<', page)[1]
    other = TestClient(lead.app, base_url=BASE, follow_redirects=False)
    assert "The owner" in other.get(link).text
    paper = other.get(f"{link}/owner.pdf")
    assert paper.status_code == 200 and paper.content.startswith(b"%PDF")
    for path in (f"{link}/record.pdf", "/shared/guessed", "/shared/guessed/owner.pdf"):
        assert other.get(path).status_code == 404
    for until, told in (("", "on which day"), ("2001-01-01", "is over"), ("soon", "type a day")):
        answer = lead.post("/jobs/6/sharing", data={"paper": "record", "until": until})
        assert answer.status_code == 422 and told in answer.text
    key = re.search(r"/sharing/(\d+)/end", page)[1]
    assert lead.post(f"/jobs/7/sharing/{key}/end").status_code == 404
    assert lead.post(f"/jobs/6/sharing/{key}/end").status_code == 303
    assert other.get(link).status_code == 404


def test_until_somebody_is_made_only_this_computer_is_answered(tmp_path):
    app = create_app(Settings(tmp_path))
    with TestClient(app, base_url=BASE) as client:
        assert client.get("/").status_code == 200
    far = TestClient(app, base_url=BASE, client=("192.0.2.7", 40000))
    refused = far.get("/")
    assert refused.status_code == 403 and "fairline people add NAME" in refused.text
    assert far.get("/health").json()["well"] is True


def test_a_clock_set_back_keeps_nobody_signed_in_longer(house):
    with house["owner"].app.state.database.session() as session:
        key = people.keys(session, "session", person_id=1)[0]
        assert key.seen_at <= clock.now()
