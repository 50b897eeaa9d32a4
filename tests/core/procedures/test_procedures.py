"""Lists of steps: which are asked where, what is done, passed over, gone wrong; what they hold up.

What the lists say is common practice, no source.
"""

from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.hand_over.records import HandedOver
from fairline.core.line import current_stage, judge, work
from fairline.core.practice import Practice
from fairline.core.procedures.procedure import PROCEDURES, At, asked
from fairline.core.procedures.progress import progress_of
from fairline.core.procedures.records import ProcedureSteps, done_steps
from fairline.core.stages import STAGES
from fairline.demo.by_hand import ticked
from fairline.demo.jobs import bindery, luthier
from tests.core.test_stages import NOW, OSMUND

MASONRY = {"wall": "masonry", "masonry_hole": "inside"}
KNOWN = OSMUND.model_copy(update={"practice": Practice(schools={"hands": "known"})})


def steps(name, *done, minutes=0, place="A", token="A", **more):
    at = NOW + timedelta(minutes=minutes)
    fields = {"procedure": name, "place": place, "token": token, "steps": done, "by": "I", "at": at}
    return ProcedureSteps(**fields | more)


def hole(records=(), rules=OSMUND, token="A"):
    (one,) = progress_of(asked("hole-masonry-in", MASONRY, At("A", token)), records, rules)
    return one


def test_every_list_is_of_a_stage_and_names_each_step_once():
    for procedure in PROCEDURES.values():
        names = [s.name for s in procedure.steps]
        assert procedure.stage in STAGES and len(set(names)) == len(names)
        assert all(s.words and (not s.unless or s.wrong) for s in procedure.steps)


@pytest.mark.parametrize(
    ("facts", "name"),
    [
        ({"wall": ""}, "hole-frame"),
        ({"wall": "frame"}, "hole-frame"),
        ({"wall": "open"}, "hole-open"),
        (MASONRY, "hole-masonry-in"),
        (MASONRY | {"masonry_hole": "outside"}, "hole-masonry-out"),
    ],
)
def test_a_wall_asks_for_one_list_by_its_kind_and_the_school(facts, name):
    holes = [n for n in PROCEDURES if n.startswith("hole-") and asked(n, facts)]
    assert holes == [name]


def test_from_outside_the_drill_points_up_and_from_inside_it_is_tipped_down():
    """A drill that is tipped down from outside sends water in."""
    of = {n: " ".join(s.words for s in PROCEDURES[n].steps) for n in PROCEDURES}
    assert "pointing up" in of["hole-masonry-out"] and "down" not in of["hole-masonry-out"]
    for name in ("hole-frame", "hole-masonry-in", "hole-open"):
        assert "tipped down" in of[name] and "pointing up" not in of[name]


def test_a_list_is_open_until_its_last_step_and_says_the_next():
    one = hole()
    assert one.call.verdict == "wait" and "0 of 5" in one.call.because
    first, *others = [s.name for s in one.asked.steps]
    assert hole([steps("hole-masonry-in", *others)]).call.do_next.startswith("Mask on")
    assert hole([steps("hole-masonry-in", first, *others)]).call.verdict == "holds"


def test_what_went_wrong_stops_until_it_is_done_again():
    wrong = steps("hole-masonry-in", "dust", "locate", "pilot", went_wrong=True)
    one = hole([wrong])
    assert one.call.verdict == "stop" and "met something" in one.call.because
    assert one.names == {"dust", "locate"}
    again = steps("hole-masonry-in", "pilot", minutes=5)
    assert hole([wrong, again]).call.verdict == "wait"
    assert done_steps([wrong], "A", "A") == {"dust", "locate"}


def test_only_what_hurts_nobody_is_passed_over_by_name():
    over = steps("hole-masonry-in", passed_because="done before it came into the house")
    assert hole([over]).call.verdict == "wait"  # nobody ticked the mask
    dust = steps("hole-masonry-in", "dust")
    passed = hole([dust, over])
    assert passed.passable and passed.call.verdict == "watch" and "by I" in passed.call.because
    with pytest.raises(ValueError, match="say which steps"):
        steps("hole-masonry-in")


def test_a_house_that_knows_its_hands_is_asked_for_what_can_hurt_someone():
    assert [s.name for s in hole(rules=KNOWN).asked.steps] == ["dust"]
    assert progress_of(asked("hole-frame", {"wall": "frame"}, At("A", "A")), (), KNOWN) == ()


def test_steps_are_of_the_machine_that_they_were_done_at():
    done = steps("hole-masonry-in", *(s.name for s in hole().asked.steps))
    assert hole([done]).call.verdict == "holds"
    assert hole([done], token="t7").call.verdict == "wait"
    assert done_steps([done], "A", "t7") == frozenset()


@given(st.lists(st.permutations(["dust", "locate", "pilot", "saw", "sleeve"]), max_size=3))
def test_in_whatever_order_they_come_steps_are_done_once(orders):
    records = [
        steps("hole-masonry-in", name, minutes=n)
        for n, name in enumerate(name for order in orders for name in order)
    ]
    one = hole(records)
    assert len(one.names) + len(one.left) == 5
    assert (one.call.verdict == "holds") == bool(orders)


def bare(job):
    """A job without its lists ticked."""
    records = tuple(r for r in job.records if not isinstance(r, ProcedureSteps))
    return job.model_copy(update={"records": records})


def test_lists_that_nobody_ticked_shut_no_gate_and_hold_up_nothing_that_was_begun():
    done, unticked = judge(bindery(), Practice()), judge(bare(bindery()), Practice())
    assert done["flare"].call.verdict == "holds" and unticked["flare"].call.verdict == "wait"
    assert unticked["flare"].proof == done["flare"].proof
    assert unticked["charge"].call == done["charge"].call
    assert current_stage(judge(bare(luthier()), Practice())) == current_stage(
        judge(luthier(), Practice())
    )


def test_every_list_is_told_once_in_its_stage_and_none_is_left_when_all_are_ticked():
    job = bare(bindery())
    told = [c.id for s in judge(job, Practice()).values() for c in s.checks if c.id[:6] == "steps_"]
    assert len(set(told)) == len(told) and 8 <= len(told) <= 14
    known = work(job, Practice(schools={"hands": "known"}))
    left = [p for d in known.done.values() for p in d.worked.procedures]
    assert [[s.name for s in p.left] for p in left] == [["strapped"]]  # its unit is on a bracket
    records = (*job.records, *ticked(job, NOW, "I"))
    again = job.model_copy(update={"records": records})
    assert ticked(again, NOW, "I") == ()


def listed(job, stage, practice=None):
    """The lists of a stage on a job whose lists nobody ticked."""
    done = work(bare(job), practice or Practice()).done[stage]
    return {p.asked.procedure.name: [s.name for s in p.left] for p in done.worked.procedures}


def test_a_rig_is_asked_about_until_it_has_proved_what_it_was_for():
    assert listed(bindery(), "pressure-test") == {} == listed(bindery(), "evacuate")
    open_still = bindery().model_copy(update={"runs": ()})
    assert "purge" in listed(open_still, "pressure-test")["nitrogen"]
    assert "manifold" not in listed(open_still, "evacuate")["vacuum"]
    needle = Practice(schools={"gauge": "needle"})
    assert "manifold" in listed(open_still, "evacuate", needle)["vacuum"]


def test_a_handed_over_job_of_before_is_asked_for_none():
    job = bare(bindery())
    over = HandedOver(by="I", at=NOW + timedelta(days=400))
    sealed = job.model_copy(update={"records": (*job.records, over)})
    assert not [p for d in work(sealed, Practice()).done.values() for p in d.worked.procedures]


def test_what_a_house_decides_later_asks_nothing_of_jobs_begun_before():
    known = Practice(schools={"hands": "known"})
    job = bare(bindery())
    records = tuple(r.model_copy(update={"practice": "then"}) for r in job.records)
    begun = job.model_copy(update={"records": records, "practices": {"then": known}})
    for house in (known, Practice()):
        asked_now = [
            p.asked.id for d in work(begun, house).done.values() for p in d.worked.procedures
        ]
        assert asked_now == ["steps_set-outdoor_outdoor"]  # it can hurt someone
