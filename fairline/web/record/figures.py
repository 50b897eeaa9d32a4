"""The drawings of the record: the house, nitrogen, each decay, charge on the tree, the wiring."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

from markupsafe import Markup

from fairline.core.commission.records import MODE_WORDS
from fairline.core.commission.stage import CommissionStageResult
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.readings import Run
from fairline.core.route.stage import RouteStageResult
from fairline.core.units import System
from fairline.core.wire.stage import WireStageResult
from fairline.web.drawing import chart
from fairline.web.drawing.course import course
from fairline.web.drawing.decay_chart import decay_chart
from fairline.web.drawing.hold_chart import hold_chart
from fairline.web.drawing.schematic import schematic
from fairline.web.drawing.wiring import wiring_map
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment
from fairline.web.frame.part_names import grams_by_run, part_names


@dataclass(frozen=True)
class Figure:
    """A drawing with its words: what it shows, by whom and when. ``wide``: across the page."""

    title: str
    words: str
    drawn: Markup
    wide: bool = True

    @property
    def box(self) -> str:
        """The corner, width and height of the drawing: ``0 0 780 330``."""
        found = re.search(r'viewBox="([^"]+)"', self.drawn)
        return found[1] if found else "0 0 1 1"


def house(judged: JudgedJob, system: System) -> list[Figure]:
    """The system as it is built: unit, lines with their lengths, heads in their rooms."""
    pipes, routed = judged.pipes, judged.of(RouteStageResult)
    if not pipes.stretches:
        return []
    kept = {port.key for port in routed.spare if port.kept}
    built = "as built" if pipes.built else "as planned"
    drawn = schematic(pipes, kept, part_names(judged), "", system)[0]
    return [Figure("The house", f"Lengths {built}.", drawn)]


def evidence(judged: JudgedJob, system: System) -> list[Figure]:
    """Every drawing that proves something, in the order of the work."""
    return [
        *_nitrogen(judged, system),
        *_decays(judged, system),
        *_charge(judged, system),
        *_wiring(judged),
        *_running(judged, system),
    ]


def _of(run: Run) -> str:
    """Who read a run and when; and whether any of it is simulated."""
    simulated = " SIMULATED: it proves nothing." if bool(run.readings.simulated.any()) else ""
    by = f", {run.started_by}" if run.started_by else ""
    return f"From {moment(run.started_at)}{by}, {len(run.readings)} readings.{simulated}"


def _nitrogen(judged: JudgedJob, system: System) -> Iterator[Figure]:
    worked = judged.of(PressureTestStageResult)
    if worked.curve and worked.plan and worked.answer and worked.run:
        drawn = hold_chart(worked.curve, chart.WIDE, system, worked.plan.hold_s, worked.searching)
        yield Figure("Nitrogen", _of(worked.run), drawn)


def _decays(judged: JudgedJob, system: System) -> Iterator[Figure]:
    whole = judged.of(EvacuateStageResult)
    every = [g for g in whole.groups if g.ports in whole.counts] or [whole]
    for one in every:
        run = one.decay
        if run is None or one.answer is None or not run.readings:
            continue
        ports = f", ports {', '.join(one.ports)}" if one.ports else ""
        drawn = decay_chart(
            run, chart.WIDE, system, one.rule.max_pa, one.rule.hold_s, one.answer.result
        )
        yield Figure(f"Vacuum decay{ports}", _of(run), drawn)


def _charge(judged: JudgedJob, system: System) -> Iterator[Figure]:
    grams = grams_by_run(judged, system)
    if len(grams) > 1:
        drawn = schematic(judged.pipes, set(), part_names(judged), "", system, grams)[0]
        yield Figure("Charge for the line", "What each run asks for.", drawn)


def _wiring(judged: JudgedJob) -> Iterator[Figure]:
    worked = judged.of(WireStageResult)
    if worked.lies.conductors and (drawn := wiring_map(worked)) is not None:
        dashed = " Dashed: not landed yet." if 'open"' in drawn or 'half"' in drawn else ""
        yield Figure("Wiring", f"As it was landed.{dashed}", drawn)


def _running(judged: JudgedJob, system: System) -> Iterator[Figure]:
    for zone, modes in judged.of(CommissionStageResult).zones.items():
        for mode, measured in modes.items():
            if measured.trend and len(measured.trend.points) > 2:
                named = f"Zone {zone}, {MODE_WORDS[mode].lower()}"
                yield Figure(named, measured.trend.because, course(measured.trend, system), False)
