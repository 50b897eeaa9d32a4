"""What docs/architecture.md says under "How to add" is done on a copy of the source, and works."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]

STAGE = '''"""A trial stage: the grille of a head."""

from typing import Literal

from fairline.core.check import check_limit
from fairline.core.check import stage_call
from fairline.core.entry import Entry, LengthM, Record
from fairline.core.proofs import Proof
from fairline.core.stage import Stage, StageContext, StageResult


class TrialEntry(Entry):
    gap_m: LengthM = None


class Wiped(Record):
    struck = "a wiped grille"

    kind: Literal["wiped"] = "wiped"


def work(context: StageContext) -> StageResult:
    entry, rules = context.entry(TrialEntry), context.rules
    limit = rules.limit("trial_gap")
    check = check_limit("gap", "Gap", entry.gap_m, limit, "small", "min", "Widen the gap.")
    wiped = context.records(Wiped)
    proofs = context.proofs
    stands = [w for w in wiped if not proofs.differences(w.subject, w.at, frozenset({"head"}))]
    assert all(Proof.of(w).subject for w in wiped)
    words = f"{len(stands)} of {len(wiped)} stand"
    return StageResult(call=stage_call([check], "The gap is wide enough.", summary=words))


STAGE = Stage("trial", "Trial", TrialEntry, work, records=(Wiped,))
'''
VIEW = '''"""Trial page."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.trial.stage import Wiped
from fairline.store import jobs
from fairline.web.drawing.trial import trial
from fairline.web.frame.forms import form_fields, read
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.frame.stage import stage_page, stage_view

router = APIRouter(include_in_schema=False)


@stage_view("trial")
def view(ctx: RequestContext, judged: JudgedJob) -> dict[str, Any]:
    return {"grille": trial(6)}


@router.post("/jobs/{job_id}/trial/wiped")
def wiped(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    extra = {"kind": "wiped", "at": ctx.done(data)}
    record, form = read(Wiped, form_fields(data), ctx.system, extra=extra)
    if record is None:
        return stage_page(ctx, ctx.judged(job_id), "trial", record_form=form, status=422)
    with ctx.change() as session:
        jobs.append_record(session, job_id, record)
    return ctx.onward(f"/jobs/{job_id}/trial", record.by)
'''
DRAWING = '''"""A grille: slats, one below the other."""

from markupsafe import Markup

from fairline.web.drawing.svg import drawing, tag


def trial(slats: int) -> Markup:
    """The slats of a grille as lines, 10 apart."""
    lines = [tag("path", d=f"M0 {10 * n}H80") for n in range(slats)]
    return drawing(80, 10 * slats, f"{slats} slats", "trial-grille", *lines)
'''
PAGE = """{% extends "job.html" %}
{% import "fields.html" as f with context %}
{% from "entry_form.html" import entry_form with context %}
{% block work %}
<header class="work-head"><h2>Trial</h2></header>
{{ grille }}
{% call entry_form(j, stage, version, editor, form, saved) %}
{{ f.quantity(form, "gap_m", "Gap", "small", system) }}{% endcall %}
{% endblock %}
"""
TRY = """
import json
from fastapi.testclient import TestClient
from fairline.demo.load import load_demo
from fairline.settings import Settings
from fairline.web.app import create_app
from pathlib import Path
import sys

settings = Settings(Path(sys.argv[1]), hosts=("testserver",))
load_demo(settings)
with TestClient(create_app(settings), client=("127.0.0.1", 50000)) as client:
    pages = [client.get("/jobs/3/trial")]
    client.post("/jobs/3/trial", data={"gap_m": "3 in", "_version": "0"})
    client.post("/jobs/3/trial/wiped", data={"by": "Ida"})
    pages.append(client.get("/jobs/3/trial"))
    record = client.get("/jobs/3/record")
    job = client.get("/api/jobs/3").json()
print(json.dumps({
    "status": [p.status_code for p in pages],
    "pages": [p.text for p in pages],
    "record": record.text,
    "kinds": [r["kind"] for r in job["records"]],
}))
"""


@pytest.fixture(scope="module")
def source(tmp_path_factory):
    """A copy of the package and its tests, free to be changed."""
    copy = tmp_path_factory.mktemp("source")
    skipped = shutil.ignore_patterns("__pycache__", "fonts", "vendor")
    for name in ("fairline", "tests"):
        shutil.copytree(ROOT / name, copy / name, ignore=skipped)
    shutil.copy(ROOT / "pyproject.toml", copy)
    return copy


def put(source, path, text, before=None):
    """A new file; with ``before``, text put into one that is there."""
    at = source / path
    at.parent.mkdir(exist_ok=True)
    if before is not None:
        was = at.read_text()
        assert was.count(before) == 1, (path, before)
        text = was.replace(before, text + before)
    at.write_text(text)


def python(source, *arguments):
    env = {**os.environ, "PYTHONPATH": str(source)}
    command = [sys.executable, *arguments]
    return subprocess.run(command, cwd=source, env=env, capture_output=True, text=True)


def add_limit(source):
    put(source, "fairline/core/limit_list.py", '    "trial_gap",\n', '    "head_left",\n')
    row = "trial_gap,gap of the trial,m,small,,2 in,0,1 ft,\n"
    put(source, "fairline/core/tables/limits.csv", row, "head_left,clear at")


def test_a_limit_that_no_stage_asks_fails_until_a_stage_asks_it_and_its_page_opens(
    source, tmp_path
):
    """A limit, a stage, a kind of record, a proof and a drawing, added as the page says."""
    add_limit(source)
    asked = "tests/core/test_limits.py::test_every_row_is_asked_by_a_stage_and_shown_by_it"
    alone = python(source, "-m", "pytest", "-q", "-p", "no:cacheprovider", asked)
    assert alone.returncode == 1 and "trial_gap" in alone.stdout

    put(source, "fairline/core/trial/__init__.py", '"""The trial."""\n')
    put(source, "fairline/core/trial/stage.py", STAGE)
    put(source, "fairline/web/trial.py", VIEW)
    put(source, "fairline/web/drawing/trial.py", DRAWING)
    put(source, "fairline/web/templates/trial/page.html", PAGE)
    imported = "from fairline.core.trial.stage import STAGE as TRIAL\n"
    put(source, "fairline/core/stages.py", imported, "from fairline.core.wire.stage import")
    put(source, "fairline/core/stages.py", "    TRIAL,\n", "    HAND_OVER,\n)")
    imported = "from fairline.core.trial.stage import TrialEntry\n"
    put(source, "fairline/core/job.py", imported, "from fairline.core.wire.entry import")
    field = "    trial: TrialEntry = TrialEntry()\n"
    put(source, "fairline/core/job.py", field, "    hand_over: HandOverEntry =")
    proof = '    "wiped": Cover("a wiped grille", frozenset({"head"}), "own"),\n'
    put(source, "fairline/core/proofs.py", proof, '    "running": Cover(')
    blank = {"purpose": "A trial.", "asks": [], "cautions": {}, "words": [], "examples": []}
    texts = f'"trial": {json.dumps(blank)},\n '
    put(source, "fairline/core/tables/handbook.json", texts, '"mount": {')

    asks = python(source, "-m", "pytest", "-q", "-p", "no:cacheprovider", asked)
    assert asks.returncode == 0, asks.stdout
    tried = python(source, "-c", TRY, str(tmp_path))
    assert tried.returncode == 0, tried.stderr
    found = json.loads(tried.stdout.splitlines()[-1])
    assert found["status"] == [200, 200] and "wiped" in found["kinds"]
    blank, entered = found["pages"]
    assert "trial-grille" in blank and "not measured yet" in blank
    assert 'value="3"' in entered and "1 of 1 stand" in entered
    assert "Trial" in found["record"]


def test_a_room_without_a_place_in_the_contracts_fails(source):
    put(source, "fairline/web/attic/__init__.py", '"""A room that no contract knows."""\n')
    put(source, "fairline/core/attic.py", '"""A room that no contract knows."""\n')
    lint = "from importlinter.cli import lint_imports_command as run; run(['--no-cache'])"
    checked = python(source, "-c", lint)
    assert checked.returncode == 1
    assert "fairline.web.attic" in checked.stdout or "- attic" in checked.stdout, checked.stdout
