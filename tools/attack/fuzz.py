"""Every form and every endpoint of the API, with what nobody would type."""

import random
from html.parser import HTMLParser
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis import checks
from starlette.applications import Starlette
from starlette.testclient import TestClient

from fairline.core.stages import TITLES as STAGES
from fairline.web.frame.gate import rights
from tools.attack.tally import Tally

SCRIPT = "<script>alert(1)</script>"
TEXTS = (
    *("", "0", "-1", "1", "2.5", "1e308", "-1e308", "5e-324", "1e400", "NaN", "inf", "-0", "０"),
    *("3' 6\"", "12 ft", "1 km", "10 000 000 ft", "1,5", "1,234", "1.234,5 m", "3/0 in", "1/2"),
    *("99999999999999999999", "0x10", "1_000", "--5", "5 5 5", "50 parsec", "300 psi", "-300 F"),
    *("x" * 101, "x" * 201, "x" * 5000, "A", "Z", "tee1", "box1", "outdoor", "A.gas.end"),
    *(SCRIPT, "{{ 7*7 }}", "'; DROP TABLE job; --", "=1+1", "%00", "\x00"),
    *("\ud7ff", "日本語 ‮abc", "\u0000", "a\nb\rc", "../../etc/passwd", "true", "false", "null"),
    *("0001-01-01T00:00", "9999-12-31T23:59", "2026-03-08T02:30", "24:00", "yes", "no", "good"),
    *("legs.-1", "rooms.0", "runs.A.legs.0", "legs." + "9" * 400, "walls.A.studs.1.x_m=3 m"),
    *("connect:A:outdoor:B", "tee:A", "box", "out:tee1", "lay-out", "loose:A", "port:outdoor:D:x"),
)
FOR_GOOD = ("/delete", "/hand-over/done", "/put-away")
OTHERS = ("/people", "/me", "/join", "/sign-in")  # a first person made would shut the door
NAMES = ("_add", "_remove", "_put", "_edit", "_part", "_version", "_turn", "_settle", "_say")


class Forms(HTMLParser):
    """The forms of a page: where each goes, and the fields it holds."""

    def __init__(self) -> None:
        super().__init__()
        self.forms: list[dict[str, Any]] = []
        self.open: dict[str, Any] | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        found = dict(attrs)
        if tag == "form":
            self.open = {"action": found.get("action") or "", "fields": {}}
            self.open["post"] = found.get("method", "get") == "post"
            self.forms.append(self.open)
            return
        if self.open is not None and tag in ("input", "select", "textarea", "button"):
            if name := found.get("name"):
                self.open["fields"].setdefault(name, found.get("value") or "")
        for order in ("formaction", "hx-post"):
            if self.open is not None and (to := found.get(order)) and to != self.open["action"]:
                self.forms.append({"action": to, "fields": self.open["fields"], "post": True})

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self.open = None


def pages(jobs: list[int]) -> list[str]:
    """Every page that the table of rights names, of these jobs: no file, no stream, no API."""
    paths = [path for method, path in rights() if method == "GET"]
    named = {"{job_id}": [str(job) for job in jobs], "{stage:stage}": [*STAGES]}
    named |= {"{sheet_id}": ["1"], "{kind}": ["head", "outdoor"]}
    found = [path for path in paths if not path.startswith("/api") and "." not in path]
    found = [path for path in found if not path.endswith("/live")]
    for name, values in named.items():
        found = [path.replace(name, value) for path in found for value in values]
    found = [path for path in dict.fromkeys(found) if "{" not in path]
    for job in jobs:
        found += [f"/jobs/{job}/route?part={p}" for p in ("runs.A", "drains", "system")]
        found += [f"/jobs/{job}/mount?part={p}" for p in ("A", "B", "outdoor")]
    return found


def forms(client: TestClient, count: int, jobs: list[int], seed: int = 1) -> Tally:
    """Post every form of every page over and over, some fields changed to what nobody types.

    What ends a job (done, put away, deleted) is done to copies. After it, every page still answers.
    """
    tally, chance = Tally("forms of all pages"), random.Random(seed)
    known: list[dict[str, Any]] = []
    for path in pages(jobs):
        answer = client.get(path)
        tally.answered(f"GET {path}", answer.status_code)
        if "text/html" not in answer.headers.get("content-type", ""):
            continue
        parser = Forms()
        parser.feed(answer.text)
        known += [f for f in parser.forms if f["post"] and not _for_good(f["action"])]
    for _ in range(count):
        form = chance.choice(known)
        data = dict(form["fields"])
        for name in chance.sample(sorted(data), min(len(data), chance.randint(1, 4))):
            data[name] = chance.choice(TEXTS)
        if chance.random() < 0.3:
            data[chance.choice(NAMES)] = chance.choice(TEXTS)
        if chance.random() < 0.05:
            data[chance.choice(TEXTS) or "x"] = chance.choice(TEXTS)
        headers = {"hx-request": "true"} if chance.random() < 0.5 else {}
        try:
            answer = client.post(form["action"], data=data, headers=headers)
            tally.answered(f"POST {form['action']} {_short(data, form)}", answer.status_code)
            _escaped(form["action"], answer, tally)
        except UnicodeEncodeError:
            continue  # no browser sends it
    for job in jobs:
        _ended(client, job, chance, tally)
    for path in pages(jobs):
        tally.answered(f"GET {path} afterwards", client.get(path).status_code)
    tally.seen = f"{len(known)} forms"
    return tally


def _escaped(action: str, answer: Any, tally: Tally) -> None:
    if SCRIPT in answer.text and "text/html" in answer.headers.get("content-type", ""):
        tally.failures.append(f"{action} gives back a script that was typed")


def _ended(client: TestClient, job: int, chance: random.Random, tally: Tally) -> None:
    """A copy of a job handed over, put away and deleted, each with nonsense first."""
    answer = client.post(f"/jobs/{job}/copy", data={"name": "to be ended"})
    copy = int(answer.url.path.split("/")[2])
    named = f"?job={client.get(f'/api/jobs/{copy}/named').json()['uid']}"
    proper = {
        "hand-over/done": {"by": "Ida", "reason": "an attack"},
        "hand-over/open": {"by": "Ida", "reason": "an attack"},
        "put-away": {},
        "bring-back": {},
        "delete": {"typed": "to be ended"},
    }
    for what, fields in proper.items():
        for values in (*({n: chance.choice(TEXTS) for n in fields} for _ in range(4)), fields):
            try:
                answer = client.post(f"/jobs/{copy}/{what}{named}", data=values)
            except UnicodeEncodeError:
                continue  # no browser sends it
            tally.answered(f"POST {what} {values}", answer.status_code)
    for path in (f"/jobs/{copy}/survey", f"/jobs/{copy}/charge{named}"):
        if client.post(path, data={"notes": "late"}).status_code != 404:
            tally.lost.append(f"job {copy} was deleted, and {path} takes a note")


def _for_good(action: str) -> bool:
    return action.partition("?")[0].endswith(FOR_GOOD) or action.startswith(OTHERS)


def _short(data: dict[str, Any], form: dict[str, Any]) -> dict[str, Any]:
    return {k: v[:60] for k, v in data.items() if form["fields"].get(k) != v}


def _from_here(app: Starlette) -> Any:
    """The application as it is asked on its own computer: until people are made only that is."""

    async def asked(scope: Any, receive: Any, send: Any) -> None:
        here = {"client": ("127.0.0.1", 50_000)} if scope["type"] == "http" else {}
        await app({**scope, **here}, receive, send)

    return asked


def api(app: Starlette, examples: int, seed: int = 1) -> Tally:
    """Every operation that ``/openapi.json`` describes, with bodies that fit it and that do not.

    What comes back must be described there: status, type and shape.
    """
    tally = Tally("the API as it is described")
    schema = schemathesis.openapi.from_asgi("/openapi.json", _from_here(app))
    wanted = [
        checks.not_a_server_error,
        checks.status_code_conformance,
        checks.content_type_conformance,
        checks.response_schema_conformance,
    ]
    operations = [result.ok() for result in schema.get_all_operations()]
    for operation in operations:
        for mode in (schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE):
            _operation(operation, mode, examples, seed, wanted, tally)
    tally.seen = f"{len(operations)} operations"
    return tally


def _operation(
    operation: Any, mode: Any, examples: int, seed: int, wanted: list[Any], tally: Tally
) -> None:
    quiet = settings(
        max_examples=examples,
        deadline=None,
        derandomize=True,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )

    @quiet
    @given(st.data())
    def one(data: st.DataObject) -> None:
        case = data.draw(operation.as_strategy(generation_mode=mode))
        what = f"{operation.method.upper()} {operation.path}"
        try:
            answer = case.call()
        except Exception as error:  # in this process a fault of the server comes through
            tally.answered(f"{what} {case.body!r}"[:160] + f" {error!r}", 500)
            return
        tally.answered(what, answer.status_code)
        try:
            case.validate_response(answer, checks=wanted)
        except Exception as error:
            tally.failures.append(f"{what}: {str(error)[:280]}")

    try:
        one()
    except Exception as error:  # no example of this kind can be made: nothing was tried
        if "Unsatisfiable" not in type(error).__name__:
            raise
