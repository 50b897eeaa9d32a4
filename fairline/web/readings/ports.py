"""Which ports an act was on, of a system of several circuits: ticked, or all that there are."""

from starlette.datastructures import FormData

from fairline.core.flare.stage import FlareStageResult
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.route.circuits import Circuit, circuits_of
from fairline.core.route.entry import OUTDOOR
from fairline.web.frame.judged_job import JudgedJob


def port_options(judged: JudgedJob) -> tuple[Circuit, ...]:
    """The circuits that nitrogen can be put on: those of runs, and spare ports that ask for it."""
    found = circuits_of(judged.pipes, judged.rules)
    if not found:
        return ()
    contents = judged.of(FlareStageResult).contents
    bare = judged.of(PressureTestStageResult).covered.bare
    places = contents.places or (lambda name: ())
    spare = {c for b in bare for c in places(b.part) if c.startswith(f"{OUTDOOR}.")}
    words = {c: f"{c.partition('.')[2]}, no run on it" for c in sorted(spare)}
    return (*found, *(Circuit(c, tag, ()) for c, tag in words.items()))


def named_ports(judged: JudgedJob, data: FormData) -> tuple[tuple[str, ...], bool]:
    """The circuits that a form names, none where there is but one; and whether none was ticked.

    A form that does not ask (``_ports`` is not in it) is of all of them.
    """
    known = [c.id for c in port_options(judged)]
    ticked = {str(value) for value in data.getlist("ports")}
    if not known or not data.get("_ports"):
        return tuple(c for c in known if c in ticked), False
    found = tuple(sorted(c for c in known if c in ticked))
    return found, not found
