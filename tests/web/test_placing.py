"""Drawings of places: to scale, whole, told in words; and their forms, part by part."""

import math
import re
import xml.etree.ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.call import Call, Check
from fairline.core.check import stage_call
from fairline.core.job import Job
from fairline.core.line import judge
from fairline.core.mount import ceiling as core_ceiling
from fairline.core.mount import wall_checks, yard_checks
from fairline.core.mount import yard as core_yard
from fairline.core.practice import Practice, Rules
from fairline.core.sheet import KINDS, Head
from fairline.demo import places
from fairline.demo import systems as demo_jobs
from fairline.demo.heads import OSMUND_C35, OSMUND_F26, OSMUND_H26
from fairline.demo.jobs import bindery
from fairline.demo.sheets import OSMUND_26, OSMUND_80, SHELF
from fairline.web.drawing.board import NARROW, WIDE, board
from fairline.web.drawing.ceiling import ceiling
from fairline.web.drawing.wall import wall
from fairline.web.drawing.yard import yard
from fairline.web.frame.forms import flat
from fairline.web.frame.plate import place_of, plate_check, plate_limit
from fairline.web.frame.rows import rows_changed, with_the_rest
from fairline.web.frame.sheet_fields import groups, quantity_kind, row_model, short_form

RULES = Rules(outdoor=OSMUND_26, head=OSMUND_H26)


def parts(root, class_):
    return [e for e in root.iter() if class_ in e.get("class", "").split()]


def box(element):
    return tuple(float(element.get(name)) for name in ("x", "y", "width", "height"))


def wall_drawn(place, system="us"):
    found = wall_checks.placed("A", place, OSMUND_H26, RULES)
    drawn = wall("A", place, OSMUND_H26, found.asked, found.result, system)
    return [ET.fromstring(str(d)) for d in drawn]


@given(st.floats(1.0, 3.4), st.floats(1.9, 2.3))
def test_the_wall_is_drawn_to_scale(x, y):
    place = places.wall(OSMUND_H26, x_m=x, y_m=y)
    for root in wall_drawn(place):
        per_m = float(root.get("data-per-m"))
        left, top, width, height = box(parts(root, "surface")[0])
        assert width == pytest.approx(3.9 * per_m, abs=0.2)
        assert height == pytest.approx(2.75 * per_m, abs=0.2)
        hx, hy, hw, hh = box(parts(root, "head")[0])
        assert hw == pytest.approx(OSMUND_H26.width_m * per_m, abs=0.2)
        assert hx + hw / 2 - left == pytest.approx(x * per_m, abs=0.3)
        assert top + height - (hy + hh) == pytest.approx(y * per_m, abs=0.3)
        hole = parts(root, "hole")[0]
        outlet = OSMUND_H26.outlet("right back")
        along = x + OSMUND_H26.from_mark(outlet.x_m, 0)[0]
        assert float(hole.get("cx")) - left == pytest.approx(along * per_m, abs=0.3)
        assert len(parts(root, "stud")) == len(place.stud_list())
        assert len(parts(root, "screw")) == len(OSMUND_H26.screws)
        paper = [float(v) for v in root.get("viewBox").split()]
        for dimension in parts(root, "measure-text"):
            assert 0 <= float(dimension.get("x")) <= paper[2]
            assert 0 <= float(dimension.get("y")) <= paper[3]


def test_a_drawing_says_in_words_what_it_shows_and_where_all_would_hold():
    holding, bad = wall_drawn(places.wall(OSMUND_H26))[0], places.wall(OSMUND_H26, x_m=2.52)
    assert "head centred" in holding.get("aria-label")
    assert "everything holds" not in holding.get("aria-label")
    assert not parts(holding, "ghost") and not parts(holding, "bad")
    short = wall_drawn(bad)[0]
    assert "everything holds at" in short.get("aria-label")
    assert len(parts(short, "ghost")) == 1
    assert parts(short, "hole")[0].get("class") == "hole bad"


def test_a_wall_before_it_is_measured_is_an_empty_one():
    bare = places.wall(OSMUND_H26, width_m=None, ceiling_m=None, x_m=None, things=())
    for root in wall_drawn(bare):
        assert not parts(root, "head") and parts(root, "surface")


@pytest.mark.parametrize("system", ["us", "si"])
def test_every_piece_names_fields_of_its_form_and_says_how_it_moves(system):
    entry = demo_jobs.gallery().mount
    unit, survey = OSMUND_26, demo_jobs.gallery().survey
    own = entry.wall("A")
    drawn = wall("A", own, OSMUND_H26, *_worked(wall_checks, own, OSMUND_H26), system)
    plan = entry.ceiling("C")
    drawn += ceiling("C", plan, *_worked(core_ceiling, plan, OSMUND_C35), system)
    place = entry.outdoor
    found = yard_checks.placed(place, survey, unit, RULES)
    drawn += yard(place, survey, unit, found.asked, found.result, system)
    fields = flat(entry, system)
    seen = set()
    for svg in drawn:
        root = ET.fromstring(str(svg))
        assert root.get("data-system") == system
        for piece in parts(root, "piece"):
            assert piece.get("id") not in seen
            seen.add(piece.get("id"))
            assert piece.get("data-x") in fields and piece.get("data-y") in fields
            assert piece.get("tabindex") == "0" and "Arrow keys" in piece.get("aria-label")
    assert len(seen) == 2 * (1 + 3 + 1 + 3 + 1 + 3)  # heads and unit with three things each, twice


def _worked(module, place, head):
    rules = RULES.model_copy(update={"head": head})
    found = module.placed("A", place, head, rules)
    return found.asked, found.result


def test_the_plan_of_a_ceiling_runs_away_from_the_reader():
    plan = demo_jobs.gallery().mount.ceiling("C")
    root = ET.fromstring(str(ceiling("C", plan, *_worked(core_ceiling, plan, OSMUND_C35), "si")[0]))
    assert root.get("data-up") == "1"
    per_m = float(root.get("data-per-m"))
    _, top, _, _ = box(parts(root, "surface")[0])
    _, y, _, height = box(parts(root, "head")[0])
    assert y + height / 2 - top == pytest.approx(plan.y_m * per_m, abs=0.3)
    assert len(parts(root, "screw")) == 4  # the hangers


def test_snow_legs_rail_and_sash_are_drawn():
    job, rules = demo_jobs.gallery(), Rules(outdoor=OSMUND_80)
    place = job.mount.outdoor
    asked = core_yard.request(place, OSMUND_80, rules)
    found = core_yard.position(asked, place, OSMUND_80, rules, 0.0).result
    plan, elevation = (
        ET.fromstring(str(d)) for d in yard(place, job.survey, OSMUND_80, asked, found, "us")[:2]
    )
    assert len(parts(plan, "swing")) == 1 and len(parts(plan, "ghost")) == 1
    assert parts(elevation, "snow") and len(parts(elevation, "leg")) == 2
    per_m = float(elevation.get("data-per-m"))
    snow = box(parts(elevation, "snow")[0])
    assert snow[3] == pytest.approx(job.survey.snow_m * per_m, abs=0.3)
    bracket = places.yard()
    asked = core_yard.request(bracket, OSMUND_80, rules)
    drawn = yard(bracket, job.survey, OSMUND_80, asked, None, "us")[1]
    rail = parts(ET.fromstring(str(drawn)), "rail")[0]
    assert box(rail)[2] == pytest.approx(bracket.rail_m * per_m, abs=0.5)


@given(st.floats(0.2, 40), st.floats(0.2, 40), st.sampled_from([WIDE, NARROW]), st.booleans())
def test_a_board_holds_all_of_it(right, up, width, downward):
    b = board(width, right, up, "us", 440.0, downward)
    assert b.x(0) >= 0 and b.x(right) <= width + 1e-6
    assert min(b.y(0), b.y(up)) >= -1e-6 and max(b.y(0), b.y(up)) <= b.height + 1e-6
    assert abs(b.y(up) - b.y(0)) == pytest.approx(up * b.per_m)
    assert math.isfinite(b.per_m) and b.per_m > 0


# --- forms ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", KINDS)
def test_every_field_of_a_sheet_stands_in_its_form_once(kind):
    rest = [f for group in groups(kind) for f in group.fields]
    shown = [f.name for f in [*short_form(kind), *rest]]
    apart = {"kind", "parts", "notes", "cites"}
    assert sorted(shown) == sorted(set(KINDS[kind].model_fields) - apart)
    for field in [*short_form(kind), *rest]:
        for column in field.columns:
            row = row_model(KINDS[kind], field.name)
            assert column.name in row.model_fields and column.label
    assert quantity_kind("outdoor", "rates", "kg_per_m") == "rate"
    assert quantity_kind("head", "form") is None


def test_saving_one_place_keeps_the_others_as_they_are():
    before = {"walls.A.x_m": "1", "walls.A.notes": "n", "walls.AB.x_m": "7", "outdoor.x_m": "2"}
    posted = {"walls.A.x_m": "3", "outdoor.x_m": "9"}
    kept = with_the_rest(posted, before, "walls.A")
    shown = {"walls.A.x_m": "3", "walls.AB.x_m": "7", "outdoor.x_m": "2"}
    assert kept == shown | {"walls.A.notes": "n"}  # what the form does not show is not forgotten
    assert with_the_rest(posted, before, "") == before | posted
    ticked = {"walls.A.ticked": True, "rooms.0.name": "x", "rooms.1.name": "y", "picked": ("a",)}
    assert with_the_rest({"rooms.0.name": "z"}, ticked, "") == {"rooms.0.name": "z"}


def test_what_is_put_sets_only_fields_that_are_there():
    fields = {"walls.A.x_m": "1", "walls.A.y_m": "2"}
    put = rows_changed(fields, "", "", "walls.A.x_m=1.2 m;walls.B.x_m=9 m;=;x")
    assert put == {"walls.A.x_m": "1.2 m", "walls.A.y_m": "2"}


def test_each_new_head_gets_a_letter_of_its_own():
    fields = {}
    for letter in "ABC":
        fields = rows_changed(fields, "heads", "")
        assert fields[f"heads.{'ABC'.index(letter)}.zone"] == letter
    fields = rows_changed(fields, "", "heads.1")
    again = rows_changed(fields, "heads", "")
    assert [again[f"heads.{n}.zone"] for n in range(3)] == ["A", "C", "D"]


# --- pages ---------------------------------------------------------------------------------------


def test_heads_offered_for_a_zone_are_of_its_form_and_meet_its_load_first(demo):
    page = demo.get("/jobs/6/survey").text
    options = re.findall(
        r'<option value="([^"]+)"', re.search(r'name="heads\.3\.sheet".*?</select>', page, re.S)[0]
    )
    high_walls = [s.name for s in SHELF if isinstance(s, Head) and s.form == "high-wall"]
    assert options[0] == "Osmund Works OH-20"  # 7000 BTU/h for 6200
    assert set(options) <= set(high_walls) and not any("Pellow" in o for o in options)


def test_the_survey_proposes_and_says_why_others_drop_out(demo):
    page = demo.get("/jobs/6/survey").text
    assert re.search(r"proposal verdict-holds chosen.*?<b>Osmund Works OS-80M4</b>", page, re.S)
    assert "6 drop out, and why" in page and "now and later" in page
    taken = demo.post(
        "/jobs/6/survey", data=_survey_fields(demo) | {"_put": "outdoor=Osmund Works OS-50M2"}
    )
    assert taken.status_code == 200
    calls = demo.get("/api/jobs/6/calls").json()["survey"]
    assert calls["call"]["verdict"] == "short" and "over_capacity" in calls["findings"]


def _survey_fields(client):
    job = Job.model_validate_json(client.get("/api/jobs/6").content)
    page = client.get("/jobs/6/survey").text
    version = re.search(r'name="_version" value="(\d+)"', page).group(1)
    fields = {}
    for name, value in flat(job.survey, "us").items():
        if isinstance(value, tuple):
            fields[f"{name}[]"] = list(value)
        elif value != "":
            fields[name] = value
    return fields | {"_version": version, "_editor": "a"}


def test_a_head_taken_out_takes_along_what_was_planned_for_it(demo):
    fields = _survey_fields(demo)
    demo.post("/jobs/6/survey", data=fields | {"_remove": "heads.1"})
    job = Job.model_validate_json(demo.get("/api/jobs/6").content)
    assert [h.zone for h in job.survey.heads] == ["A", "C", "D"]
    assert [h.zone for h in job.equipment.heads] == ["A", "C"]
    assert "B" not in job.route.runs and "B" not in job.mount.walls
    assert "B" not in job.mount.ceilings and "B" not in job.route.drains
    checks = demo.get("/api/jobs/6/calls").json()["mount"]["checks"]
    assert not [c for c in checks if c["id"].startswith("B_")]


def test_what_a_choice_hides_is_not_forgotten(demo):
    """From bracket to stand and back: the rail is still where it was."""
    whole = Job.model_validate_json(demo.get("/api/jobs/6").content).mount.outdoor
    fields = {f"outdoor.{k}": v for k, v in (("rail_m", "0.9 m"), ("rail_left_m", "0.4 m"))}
    url = "/jobs/6/mount?part=outdoor"
    demo.post(url, data=fields | {"outdoor.support": "bracket", "_part": "outdoor"})
    demo.post(url, data={"outdoor.support": "stand", "_part": "outdoor"})
    demo.post(url, data={"outdoor.support": "bracket", "_part": "outdoor"})
    yard = Job.model_validate_json(demo.get("/api/jobs/6").content).mount.outdoor
    assert (yard.support, yard.rail_m, yard.rail_left_m) == ("bracket", 0.9, 0.4)
    assert yard.things == whole.things  # nor what stands in the yard
    demo.post(url, data={"outdoor.rail_m": "", "_part": "outdoor"})  # blanked is blank
    assert Job.model_validate_json(demo.get("/api/jobs/6").content).mount.outdoor.rail_m is None


def test_a_console_and_a_cassette_have_pages_of_their_own_kind(demo):
    console, cassette = (demo.get(f"/jobs/6/mount?part={z}").text for z in "BC")
    assert 'id="wall-B-w"' in console and "Studs on centre" in console
    assert 'id="ceiling-C-w"' in cassette and "Service hatch" in cassette
    assert OSMUND_F26.name not in cassette
    for odd in ("Z", "walls.Z", "", "outdoor.x", "A&part=B"):
        assert demo.get(f"/jobs/6/mount?part={odd}").status_code == 200


def test_the_plate_never_draws_a_value_that_did_not_decide(demo):
    """The sash has no number: no scale of another check stands in its place."""
    put = {"_put": "walls.A.x_m=1.95 m", "_part": "walls.A", "_editor": "a", "_version": "1"}
    job = Job.model_validate_json(demo.get("/api/jobs/6").content)
    fields = {k: v for k, v in flat(job.mount, "us").items() if k.startswith("walls.A.") and v}
    demo.post("/jobs/6/mount?part=walls.A", data=fields | put)
    page = demo.get("/jobs/6/mount").text
    plate = re.search(r'<section class="plate.*?</section>', page, re.S)[0]
    assert "swings into the unit" in plate
    assert "scale" not in plate and "Governs" not in plate


def test_long_shelves_are_paged_and_searched(demo):
    sheet = SHELF[0].model_dump(mode="json")
    many = [sheet | {"model": f"X-{n:03}"} for n in range(120)]
    taken = demo.post("/api/sheets", json={"sheets": many}).json()
    assert taken["new"] == 120
    assert "1 of 3 · 142 sheets" in demo.get("/shelf").text
    assert "3 of 3" in demo.get("/shelf?at=3").text
    assert demo.get("/shelf?at=99").status_code == 200
    found = demo.get("/shelf?q=osmund+x-07").text
    assert found.count('class="sheet-card') == 10
    assert demo.get("/shelf?kind=boiler&q=%25").text.count('class="sheet-card') == 0


def test_two_people_at_two_places_of_a_job_lose_nothing(demo):
    """Both are kept."""
    job = Job.model_validate_json(demo.get("/api/jobs/6").content)
    shown = flat(job.mount, "us")

    def save(part, editor, **change):
        fields = {k: v for k, v in shown.items() if k.startswith(f"{part}.") and v != ""}
        data = fields | {f"{part}.{k}": v for k, v in change.items()}
        told = {"_part": part, "_editor": editor, "_version": "1"}
        return demo.post(f"/jobs/6/mount?part={part}", data=data | told)

    assert save("walls.A", "ida", notes="by Ida").status_code == 200
    assert save("walls.B", "tomas", notes="by Tomas").status_code == 200
    kept = Job.model_validate_json(demo.get("/api/jobs/6").content).mount
    assert (kept.wall("A").notes, kept.wall("B").notes) == ("by Ida", "by Tomas")


def test_do_next_leads_to_the_place_that_can_be_mended():
    """An anchor; on the part of the page that it is on, of one of several heads on its own."""
    for job, stage, id, place in (
        (bindery(), "survey", "hiss_A", "/jobs/6/survey?part=boxes#at-hiss_A"),
        (demo_jobs.gallery(), "mount", "A_hole_stud", "/jobs/6/mount?part=walls.A#at-A_hole_stud"),
        (demo_jobs.gallery(), "mount", "lift", "/jobs/6/mount?part=outdoor#at-lift"),
        (demo_jobs.gallery(), "route", "run_B", "/jobs/6/route?part=runs.B#at-run_B"),
        (demo_jobs.gallery(), "route", "drain_C", "/jobs/6/route?part=drains#at-drain_C"),
        (demo_jobs.gallery(), "route", "tree", "/jobs/6/route?part=system#at-tree"),
        (bindery(), "flare", "A.gas.end", "/jobs/6/flare?joint=A.gas.end#at-A.gas.end"),
    ):
        checks = {c.id: c for c in judge(job, Practice())[stage].checks}
        assert place_of(checks[id], stage, 6) == place


def test_the_first_line_of_a_plate_is_the_check_that_decided():
    limit = RULES.limit("head_left")
    good = Check(id="a", label="A", call=Call(verdict="holds", because="."), value=1.0, limit=limit)
    bare = Check(id="b", label="B", call=Call(verdict="short", because="."))
    bad = good.model_copy(update={"id": "c", "call": Call(verdict="short", because=".")})
    for checks, drawn in (
        ([good], good),
        ([good, bare], None),
        ([good, bare, bad], None),
        ([bad, bare], bad),
    ):
        call = stage_call(checks, "All hold.")
        assert plate_check(call) == drawn
        assert plate_limit(call) == (limit if drawn else None)
    own = stage_call([bare], "", governed_by=[limit])
    assert plate_limit(own) == limit  # the stage names it, and no check another
