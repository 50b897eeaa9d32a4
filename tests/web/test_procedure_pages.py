"""What the lists of steps take in, and what they refuse."""

import pytest

HOLE = "steps_hole-frame_A"


@pytest.fixture
def bare(demo):
    """The sixth job of the demo with its lists struck out; a post to its lists of Mount."""
    job = demo.get("/api/jobs/6").json()
    job["records"] = [r for r in job["records"] if r["kind"] != "procedure-steps"]
    number = demo.post("/api/jobs", json=job | {"uid": "lists-bare-0001"}).json()["id"]

    def post(**fields):
        data = {"stage": "mount", "by": "Ida"} | fields
        return demo.post(f"/jobs/{number}/procedures", data=data, follow_redirects=False)

    def kept():
        found = demo.get(f"/api/jobs/{number}").json()["records"]
        return [r for r in found if r["kind"] == "procedure-steps"]

    post.kept = kept
    return post


def test_a_step_a_list_and_several_are_kept_with_who_did_them(bare):
    assert bare(step=f"{HOLE}|locate").status_code == 303
    assert bare(step=f"{HOLE}|pilot:not").status_code == 303
    assert bare(all=f"{HOLE},steps_hang_A").status_code == 303
    first, wrong, hole, hang = bare.kept()
    assert first["steps"] == ["locate"] and first["by"] == "Ida" and first["token"]
    assert wrong["went_wrong"] and "pilot" in hole["steps"] and "locate" not in hole["steps"]
    assert hang["procedure"] == "hang" and len(hang["steps"]) > 5


@pytest.mark.parametrize(
    "fields",
    [
        {"step": f"{HOLE}|nothing"},
        {"step": f"{HOLE}|"},
        {"step": f"{HOLE}|locate:not"},  # of this one nothing is asked
        {"step": "steps_none_A|locate"},
        {"all": "steps_none"},
        {"all": HOLE, "stage": "kitchen"},
        {},
    ],
)
def test_what_no_page_offers_is_not_found(bare, fields):
    assert bare(**fields).status_code == 404 and bare.kept() == []


def test_a_list_is_passed_over_with_a_reason_where_nobody_can_be_hurt(bare):
    assert bare(**{"pass": HOLE}).status_code == 422
    assert bare(**{"pass": HOLE, "why": "by others", "by": ""}).status_code == 422
    roof = bare(**{"pass": "steps_hang-ceiling_C", "why": "by others"})
    assert roof.status_code == 422 and "keeps somebody from harm" in roof.text
    assert bare(**{"pass": HOLE, "why": "by others"}).status_code == 303
    (kept,) = bare.kept()
    assert kept["passed_because"] == "by others" and not kept["steps"]
