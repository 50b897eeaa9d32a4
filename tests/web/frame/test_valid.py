"""Every page of the demo against html-validate: ids, labels, what may stand in what.

``.htmlvalidate.json`` says which of its rules are matters of taste here.
"""

import json
import subprocess
from pathlib import Path

from tests.node import node_modules

ROOT = Path(__file__).parents[3]
PLAIN = (
    *("/", "/shelf", "/shelf/new/head", "/shelf/1", "/rules", "/van", "/handbook", "/jobs/new"),
    *("/cylinders?training=true", "/days?from=2027-03-01", "/days/sheet?on=2027-03-01", "/crew"),
    *("/load?job=6", "/sign-in", "/me", "/people", "/certificate"),
)
OF_A_JOB = (
    *("survey", "survey?part=walk", "survey?part=boxes", "mount", "mount?part=outdoor", "route"),
    *("route?part=runs.A", "route?part=drains", "route/cut", "flare", "flare/card", "head"),
    *("pressure-test", "wire", "wire?part=cables", "wire?part=power", "wire?part=settings"),
    *("evacuate", "charge", "commission", "hand-over", "record", "label", "pictures", "life"),
    *("bench", "rules", "setting-out", "wire-cards"),
    *("plan", "plan?task=leave", "bid", "bid/print?lines=true", "sharing"),
)


def test_every_page_is_valid_html(demo, tmp_path):
    checker = node_modules(".bin/html-validate") / ".bin" / "html-validate"
    asked = {"count": "2", "start": "2027-03-01T08:00"}
    assert demo.post("/jobs/6/plan", data=asked).status_code == 200
    pages = [*PLAIN, *(f"/jobs/{job}/{part}" for job in (1, 4, 6, 8, 9) for part in OF_A_JOB)]
    for n, path in enumerate(pages):
        answer = demo.get(path)
        if answer.status_code == 200:
            (tmp_path / f"{n}.html").write_text(answer.text)
    assert len(list(tmp_path.iterdir())) > 150
    checks = [checker, "--config", ".htmlvalidate.json", "-f", "json"]
    run = subprocess.run([*checks, f"{tmp_path}/*.html"], cwd=ROOT, capture_output=True, text=True)
    found = {
        (pages[int(Path(file["filePath"]).stem)], one["ruleId"], one["message"])
        for file in json.loads(run.stdout)
        for one in file["messages"]
    }
    assert found == set()
