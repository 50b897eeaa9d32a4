"""Whatever the forms accept, every stage can judge, draw, show and print."""

from datetime import UTC, datetime

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from fairline.core.commission.records import Running
from fairline.core.entry import kind_of
from fairline.core.equipment import Equipment, PlannedHead, PlannedOutdoor
from fairline.core.flare.records import JointRecord
from fairline.core.job import Job
from fairline.core.limit_list import LIMITS
from fairline.core.mount import wall, yard
from fairline.core.mount.ceiling import CeilingPlace, InCeiling
from fairline.core.mount.stage import MountEntry
from fairline.core.mount.wall import WallPlace, WallThing
from fairline.core.mount.yard import InYard, YardPlace
from fairline.core.practice import Practice
from fairline.core.readings import COLUMNS_BY_KIND, MODEL_BY_KIND
from fairline.core.route.entry import LineRun
from fairline.core.schools import TOPICS
from fairline.core.sheet import Head, Outdoor
from fairline.core.sheet.head import FORMS
from fairline.core.sheet.outdoor import SYSTEMS
from fairline.core.stages import ENTRIES
from fairline.core.stages import TITLES as STAGES
from fairline.core.survey.stage import WantedHead
from fairline.core.units import KINDS
from fairline.demo.jobs import bindery
from fairline.store import house, jobs

NOW = datetime(2026, 3, 1, tzinfo=UTC)
TEXTS = ["", "x", "<b>&\"'", "=1+1", "日本 Ł \u202e", "a" * 200]


def edges(kind):
    k = KINDS[kind]
    return st.sampled_from(
        [
            None,
            0.0,
            1e-9,
            0.01,
            1.0,
            7.3,
            20.0,
            500.0,
            1e5,
            3e6,
            max(k.minimum, -1e6),
            min(k.maximum, 1e7),
            -1.0,
        ]
    )


@st.composite
def accepted(draw, of, **fixed):
    """A model whose quantities sit at their edges; what it refuses is left blank."""
    raw = dict(fixed)
    for name, info in of.model_fields.items():
        if name in fixed:
            continue
        if kind := kind_of(of, name):
            raw[name] = draw(edges(kind))
        elif info.annotation is str:
            raw[name] = draw(st.sampled_from(TEXTS))
    for _ in range(3):
        try:
            return of.model_validate(raw)
        except ValidationError as error:
            wrong = {e["loc"][0] for e in error.errors() if e["loc"]}
            raw = {k: v for k, v in raw.items() if k in fixed or (wrong and k not in wrong)}
    return of.model_validate(fixed)


@st.composite
def sheets(draw):
    """An outdoor unit and a head whose numbers sit at their edges, rows of lists too."""
    tube = draw(st.sampled_from([0.00635, 0.00952, 0.0191]))
    outdoor = draw(
        accepted(
            Outdoor,
            maker="M",
            model="O",
            refrigerant="R-32",
            parts="a\nb",
            system=draw(st.sampled_from(list(SYSTEMS))),
            ports=[{"liquid_od_m": tube, "gas_od_m": 0.0127}],
            rates=[{"liquid_od_m": tube, "kg_per_m": draw(st.sampled_from([0.0, 0.02, 5.0]))}],
            room_charges=[{"area_m2": 8.0, "max_kg": 0.3}],
        )
    )
    place = st.sampled_from([-1.0, 0.0, 0.1, 5.0])
    head = draw(
        accepted(
            Head,
            maker="M",
            model="H",
            form=draw(st.sampled_from(list(FORMS))),
            screws=[
                {"x_m": draw(place), "y_m": draw(place)} for _ in range(draw(st.integers(0, 3)))
            ],
            outlets=[{"name": "o", "x_m": draw(place), "y_m": draw(place)}]
            * draw(st.integers(0, 1)),
        )
    )
    return Equipment(
        outdoor=PlannedOutdoor(sheet=outdoor), heads=(PlannedHead(zone="A", sheet=head),)
    )


@st.composite
def mounted(draw):
    """Places at their edges: a wall, a ceiling and a yard, each with something in it."""
    wall_thing = draw(accepted(WallThing, kind=draw(st.sampled_from(list(wall.WAYS)))))
    yard_thing = draw(accepted(InYard, kind=draw(st.sampled_from(list(yard.WAYS)))))
    spacing = draw(st.sampled_from([None, 0.05, 0.4064, 3.0]))
    own = {"stud_spacing_m": spacing, "stud_first_m": draw(st.sampled_from([None, -5.0, 0.1]))}
    return MountEntry(
        walls={"A": draw(accepted(WallPlace, things=[wall_thing], **own))},
        ceilings={"A": draw(accepted(CeilingPlace, things=[draw(accepted(InCeiling))], **own))},
        outdoor=draw(
            accepted(
                YardPlace,
                things=[yard_thing],
                people=1,
                fasteners=2,
                support=draw(st.sampled_from(["pad", "bracket"])),
                **own,
            )
        ),
    )


def readings(draw, kind):
    count = draw(st.sampled_from([0, 1, 2, 9, 30]))
    step = draw(st.sampled_from([0.0, 1.0, 60.0, 1e6]))
    values = {
        "hold": (
            st.sampled_from([-20_000.0, 0.0, 1e5, 2.07e6, 2e7]),
            st.sampled_from([-80.0, 0.0, 20.0, 150.0]),
        ),
        "decay": (st.sampled_from([0.0, 0.1, 66.0, 5e3, 2e5]),),
    }[kind]
    names = {"hold": ("gauge_pa", "pipe_c"), "decay": ("pa",)}[kind]
    found = [
        MODEL_BY_KIND[kind](
            seq=i, t_s=i * step, **{n: draw(v) for n, v in zip(names, values, strict=True)}
        )
        for i in range(count)
    ]
    return COLUMNS_BY_KIND[kind].of(found)


def accepted_run(draw, starts):
    """A run of any legs, fed from anything at all."""
    legs = [
        {
            "direction": draw(st.sampled_from(["up", "down", "left", "in", "out"])),
            "length_m": draw(st.sampled_from([None, 0.0, 1e-9, 0.01, 3.0, 1000.0])),
            "setting": draw(st.sampled_from([None, "wall", "attic"])),
        }
        for _ in range(draw(st.integers(0, 5)))
    ]
    return LineRun(
        fed_from=draw(st.sampled_from(starts)),
        outlet=draw(st.sampled_from(["", "A", "on", "Z"])),
        along=draw(st.sampled_from(["", "A", "B"])),
        along_legs=draw(st.sampled_from([None, 1, 9])),
        built_m=draw(st.sampled_from([None, 0.0, 12.0])),
        gas_od_m=draw(st.sampled_from([None, 0.0127, 0.02])),
        legs=legs,
    )


@st.composite
def any_job(draw):
    base = bindery()
    entries = {jobs.field_name(stage): draw(accepted(model)) for stage, model in ENTRIES.items()}
    ends = draw(st.lists(st.sampled_from(["A", "B", "box1", "tee1", "tee2"]), max_size=5))
    runs = {end: accepted_run(draw, [*ends, "outdoor", "", "tee9"]) for end in dict.fromkeys(ends)}
    entries["route"] = entries["route"].model_copy(update={"runs": runs})
    records = [
        draw(
            accepted(
                JointRecord,
                place="gas_head",
                look="good",
                by="I",
                at=NOW,
                applied_nm=draw(st.sampled_from([0.0, 16.0, 1000.0])),
            )
        ),
        draw(
            accepted(
                Running,
                mode="cool",
                by="I",
                at=NOW,
                return_c=27.0,
                return_rh=0.5,
                supply_c=12.0,
                supply_rh=0.9,
            )
        ),
    ]
    runs = tuple(
        run.model_copy(update={"readings": readings(draw, kind)})
        for kind, run in (("hold", base.runs[0]), ("decay", base.runs[2]))
    )
    return base.model_copy(
        update={
            **entries,
            "mount": draw(mounted()),
            "survey": entries["survey"].model_copy(
                update={"heads": (WantedHead(zone="A", sheet="M H"),), "outdoor": "M O"}
            ),
            "equipment": draw(st.just(Equipment()) | sheets()),
            "runs": runs,
            "records": (*base.records, *records),
        }
    )


@st.composite
def any_practice(draw):
    own = {}
    for name, d in LIMITS.items():
        if draw(st.booleans()):
            own[name] = draw(st.sampled_from([d.low, d.high]))
    chosen = {
        t: draw(st.sampled_from([s.name for s in topic.schools])) for t, topic in TOPICS.items()
    }
    return Practice(house=own, schools=chosen)


@settings(
    max_examples=15,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(job=any_job(), practice=any_practice(), units=st.sampled_from(["us", "si"]))
def test_no_accepted_job_breaks_a_page(client, job, practice, units):
    database = client.app.state.database
    with database.session() as session:
        house.set_practice(session, practice)
        job = Job.model_validate_json(job.model_dump_json())
        job_id = jobs.import_job(session, job, as_copy=True)
        session.commit()
    client.cookies.set("fairline_units", units)
    parts = ("mount?part=A", "mount?part=outdoor", "setting-out", "practice")
    for path in (*STAGES, *parts, "record", "label", "record.pdf", "job.json"):
        answer = client.get(f"/jobs/{job_id}/{path}")
        assert answer.status_code == 200, path
    assert client.get(f"/api/jobs/{job_id}/calls").status_code == 200
    with database.session() as session:
        jobs.remove(session, job_id)
        session.commit()
