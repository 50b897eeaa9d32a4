"""Rough treatment: random forms, many at once, and a record that says the same on paper."""

import io
import threading

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from fairline.core.job import Job
from fairline.core.quantities import preferring

FORMS = [
    "/jobs/new",
    "/jobs/import",
    "/shelf/new/head",
    "/shelf/new/outdoor",
    "/shelf/1",
    "/shelf/import",
    "/jobs/3/rules",
    "/jobs/3/survey/newer",
    "/rules",
    "/preferences",
    "/jobs/3/head",
    "/jobs/3/flare/joints",
    "/jobs/3/charge/weighings",
    "/jobs/3/charge/release",
    "/jobs/3/commission/readings",
    "/jobs/3/bench/micron",
    "/jobs/3/bench/scale",
    "/jobs/3/charge/scale",
    "/jobs/3/flare/wrench",
    "/jobs/3/runs/hold/reading",
    "/jobs/3/runs/decay/file",
    "/jobs/3/runs/pull/begin",
    "/jobs/3/route",
    "/jobs/8/route?part=runs.tee3",
    "/jobs/6/route?part=drains",
    "/jobs/6/cut-plan",
    "/jobs/8/materials",
    "/jobs/6/materials.csv",
    "/van",
    "/jobs/3/survey",
    "/jobs/3/mount",
    "/jobs/6/mount?part=C",
    "/jobs/3/flare",
    "/jobs/3/charge",
    "/jobs/999999999999999999999/mount",
    "/jobs/0/mount",
    "/jobs/-1/route",
]
NAMES = st.sampled_from(
    [
        "name",
        "maker",
        "model",
        "_part",
        "_put",
        "walls.A.x_m",
        "walls.A.things.0.kind",
        "ports.0.letter",
        "cites.mop_a",
        "heads.0.zone",
        "boxes.A.hiss",
        "topic",
        "school",
        "reason",
        "runs.A.legs.0.direction",
        "runs.A.legs.0.length_m",
        "runs.tee1.legs.7.length_m",
        "runs.A.legs",
        "_edit",
        "_say",
        "drains.A.parts.0.fall_m",
        "ports.outdoor-A",
        "lines.0.length_m",
        "rooms.0.name",
        "parts_seen[]",
        "_add",
        "_remove",
        "_turn",
        "_version",
        "place",
        "look",
        "wrench_nm",
        "by",
        "before_kg",
        "after_kg",
        "order",
        "mode",
        "return_c",
        "return_rh",
        "gauge_pa",
        "pipe_c",
        "pa",
        "after_s",
        "house.head_left",
        "outdoor.x_m",
        "ceilings.C.y_m",
        "code.max_bends",
        "source.max_bends",
        "pressure",
        "units",
        "file",
        "adapter_deg",
        "." * 30,
        "",
        "a" * 5000,
        "legs.0.0.0",
    ]
)
VALUES = st.one_of(
    st.sampled_from(
        [
            "",
            "1",
            "-1",
            "²",
            "٣",
            "1e999",
            "nan",
            "runs.A.legs",
            "tee:A",
            "lay-out",
            "connect:A:A:B",
            "say:Q",
            "out:box1",
            "runs.A.legs.0",
            "walls.A",
            "walls.A.things",
            "heads",
            "walls.A.x_m=1 m",
            "legs.x",
            "2 m",
            "12' 6\"",
            "yes",
            "cool",
            "by feel",
            "gas_head",
            "9" * 400,
            "\x00",
            "\ud7ff",
            "=1+1",
            "R-32",
            "up",
        ]
    ),
    st.text(max_size=12),
)


@settings(max_examples=150, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.sampled_from(FORMS), st.dictionaries(NAMES, VALUES, max_size=8), st.booleans())
def test_no_form_breaks_the_server(demo, url, fields, htmx):
    headers = {"hx-request": "true"} if htmx else {}
    answer = demo.post(url, data=fields, headers=headers, follow_redirects=False)
    assert answer.status_code < 500, (url, fields)


@settings(max_examples=100, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.sampled_from(
        [
            "/api/jobs",
            "/api/calc/route",
            "/api/jobs/2/runs/hold",
            "/api/jobs/2/runs/x/readings",
            "/api/sheets",
            "/api/calc/vacuum-decay",
        ]
    ),
    st.one_of(
        st.binary(max_size=40),
        st.sampled_from(
            [b"[" * 3000, b'{"readings":' * 200, b'{"uid": "' + b"x" * 9000 + b'"}', b"1e400"]
        ),
    ),
)
def test_no_body_breaks_the_api(demo, url, body):
    answer = demo.post(url, content=body)
    assert answer.status_code < 500
    if answer.status_code >= 400:
        assert answer.json()["status"] == answer.status_code


def test_many_at_once_lose_nothing(demo):
    """Four instruments and two editors on one job, all at the same time."""
    run = demo.post("/api/jobs/2/runs/pull").json()["run"]
    wrong = []

    def instrument(name):
        for i in range(25):
            reading = {"instrument": name, "seq": i, "t_s": float(i), "pa": 100.0 - i}
            answer = demo.post(f"/api/jobs/2/runs/{run}/readings", json=[reading])
            if answer.status_code != 200:
                wrong.append(answer.text)

    def editor(name, stage):
        for i in range(25):
            answer = demo.post(
                f"/jobs/2/{stage}",
                headers={"hx-request": "true"},
                data={"notes": f"{name} {i}", "_editor": name, "_turn": str(i + 1)},
            )
            if answer.status_code != 200:
                wrong.append(answer.text)

    threads = [threading.Thread(target=instrument, args=(f"g{n}",)) for n in range(4)]
    threads += [
        threading.Thread(target=editor, args=(n, s))
        for n, s in (("a", "charge"), ("b", "commission"))
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert wrong == []
    job = Job.model_validate_json(demo.get("/api/jobs/2").content)
    assert len(job.runs[-1].readings) == 100
    assert (job.charge.notes, job.commission.notes) == ("a 24", "b 24")


def test_saves_that_overtake_each_other_keep_the_last_typed(demo):
    def save(turn, text):
        demo.post(
            "/jobs/2/charge",
            headers={"hx-request": "true"},
            data={"notes": text, "_editor": "a", "_turn": str(turn)},
        )

    for turn, text in ((1, "o"), (3, "one"), (2, "on")):
        save(turn, text)
    assert demo.get("/api/jobs/2").json()["charge"]["notes"] == "one"


@pytest.mark.parametrize(
    ("units", "said"),
    [("us", ["29' 9\"", "23.0 oz", "27.7 lbf·ft"]), ("si", ["9.07 m", "652 g", "37.5 N·m"])],
)
def test_the_record_on_paper_says_what_the_page_says(demo, units, said):
    demo.cookies.set("fairline_units", units)
    demo.post(
        "/jobs/1/charge/release",
        data={"order": "gas_first", "by": "Łucja", "full_open": "true", "caps_on": "true"},
    )
    paper = PdfReader(io.BytesIO(demo.get("/jobs/1/record.pdf").content))
    text = " ".join(" ".join(page.extract_text().split()) for page in paper.pages)
    for words in (*said, "Bindery", "Łucja", "Ninefold Ductless", "R-32 no. 3", "page 1 of"):
        assert words in text, words
    for stage in demo.get("/api/jobs/1/calls").json().values():
        because = " ".join(preferring(stage["call"]["because"], units).split())
        assert because[:40] in text, because
