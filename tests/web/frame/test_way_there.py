"""Every "do next" leads to where it can be done: the page is there, and the place is on it."""

import json
import re

import pytest

from fairline.core.stages import IN_ORDER, STAGE_OF_RECORD, STAGE_OF_RUN
from fairline.web.frame.plate import place_of

KINDS = {2: "single", 6: "home runs", 7: "branch box", 8: "trunk", 9: "kit"}  # one job of each
NAMES = [stage.name for stage in IN_ORDER]


def as_far_as(client, job_id, stage):
    """A copy of a demo job in which nothing was entered nor done from a stage on."""
    job = client.get(f"/api/jobs/{job_id}").json()
    cut = set(NAMES[NAMES.index(stage) :])
    job["uid"] = f"{job['uid'][:20]}-{stage}"
    for name in cut:
        job.pop(name.replace("-", "_"), None)
    job["records"] = [r for r in job["records"] if STAGE_OF_RECORD.get(r["kind"]) not in cut]
    job["runs"] = [r for r in job["runs"] if STAGE_OF_RUN[r["kind"]] not in cut]
    answer = client.post("/api/jobs", content=json.dumps(job))
    assert answer.status_code == 201, answer.text
    return answer.json()["id"]


def lost(client, job_id):
    """What is to be done next on any stage of a job, and leads nowhere."""
    pages = {}

    def ids(path):
        if path not in pages:
            answer = client.get(path)
            assert answer.status_code == 200, path
            pages[path] = (set(re.findall(r'\bid="([^"]+)"', answer.text)), answer.text)
        return pages[path][0]

    with client.app.state.database.session() as session:
        stages = client.app.state.judged.get(session, job_id).stages
    for stage, call in stages.items():
        here = f"/jobs/{job_id}/{stage}"
        ids(here)
        links = re.findall(r'class="(?:do-next|button dock-act)"\s+href="([^"]+)"', pages[here][1])
        links += [place_of(check, stage, job_id) for check in call.checks if check.call.do_next]
        for link in links:
            path, _, anchor = link.partition("#")
            if anchor and anchor not in ids(path or here):
                yield stage, link


@pytest.mark.parametrize("job_id", range(1, 10))
def test_a_demo_job_leads_on_to_where_it_can_be_done(demo, job_id):
    assert not list(lost(demo, job_id))


CAME = ("survey", "mount", "flare", "wire", "charge", "commission")


@pytest.mark.parametrize(
    ("job_id", "stage"),
    [(job, stage) for n, job in enumerate(KINDS) for stage in CAME[n % 2 :: 2]],
)
def test_a_job_that_came_as_far_as_a_stage_leads_on(demo, job_id, stage):
    assert not list(lost(demo, as_far_as(demo, job_id, stage)))
