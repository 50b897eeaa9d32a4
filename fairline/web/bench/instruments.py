"""Instruments on a job's pages: the simulated ones to put on, and what those show that are read at
a tap. A value that is taken stands in the form; where no instrument read it, it is marked so."""

from dataclasses import dataclass
from math import isclose
from typing import Any, get_args

from fairline.core.instrument import SHOWS, WHAT, Spot, SpotReading, What
from fairline.core.physics.constants import MINUTE_S
from fairline.core.quantities import parse
from fairline.core.route.circuits import Open
from fairline.instruments import catalogue
from fairline.store.instruments import newest_spots
from fairline.web.bench import bench
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.request_context import RequestContext

FRESH_S = 15 * MINUTE_S  # what was shown longer ago is not offered
KINDS: dict[str, tuple[str, str]] = {  # of a value: its kind of quantity, and how it is typed
    "mass_kg": ("cylinder", "{:.3f} kg"),
    "air_c": ("temperature", "{:.1f} °C"),
    "humidity": ("fraction", "{:.0%}"),
    "torque_nm": ("torque", "{:.2f} N·m"),
}
# Where each is taken: the post, and what stands in which field, as words and field=value pairs.
TAKES: dict[Spot, tuple[str, tuple[tuple[str, str], ...]]] = {
    "scale": ("charge/scale", (("before", "before_kg=mass_kg"), ("after", "after_kg=mass_kg"))),
    "thermometer": (
        "commission/thermometer",
        (
            ("return air", "return_c=air_c return_rh=humidity"),
            ("supply air", "supply_c=air_c supply_rh=humidity"),
        ),
    ),
    "wrench": ("flare/wrench", (("this joint", "wrench_nm=torque_nm"),)),
}
MARK = "no_instrument"  # a field of a form: what in it was simulated, as name=text


def bench_context(ctx: RequestContext, judged: JudgedJob, ports: Open = ()) -> dict[str, Any]:
    """What is on the job, or on some of its ports, and what can be put on."""
    on = ctx.request.app.state.bench
    return {
        "placed": {what: on.on(judged.id, what, ports) for what in get_args(What)},
        "bench_scenarios": catalogue.SCENARIOS,
        "bench_speeds": bench.SPEEDS,
        "bench_leaks": catalogue.LEAKS,
        "bench_waters": catalogue.WATERS,
        "instrument_words": WHAT,
        "bench_form": Form({}),
    }


@dataclass(frozen=True)
class Shown:
    """What an instrument shows: its values with their kinds of quantity, how long ago in s."""

    spot: SpotReading
    age_s: float

    @property
    def values(self) -> list[tuple[float, str]]:
        return [(value, KINDS[name][0]) for name, value in self.spot.values().items()]


def shown(ctx: RequestContext, judged: JudgedJob, what: Spot) -> dict[str, Any]:
    """What instruments of a kind show now, and where it is taken; what is old is left out."""
    now = ctx.now()
    found = [
        Shown(s, (now - s.at).total_seconds()) for s in newest_spots(ctx.session, judged.id, what)
    ]
    at, takes = TAKES[what]
    return {
        "what": what,
        "live": ctx.request.app.state.bench.on(judged.id, what) is not None,
        "now": [
            s
            for s in found
            if s.age_s <= FRESH_S and not (s.spot.simulated and not judged.job.head.practice)
        ],
        "at": judged.posts(f"/{at}"),
        "takes": takes,
    }


def taken(ctx: RequestContext, judged: JudgedJob, fields: dict[str, Any], what: Spot) -> Form:
    """The form with what an instrument shows in its fields: ``take`` is ``field=value …|name``."""
    order, _, name = str(fields.pop("take", "")).partition("|")
    spots = [s.spot for s in shown(ctx, judged, what)["now"]]
    spot = next((s for s in spots if s.instrument == name), None)
    if spot is None:
        return Form(fields, {order.partition("=")[0]: "it shows nothing now: read it and type"})
    return Form(_filled(fields, order, spot))


def _filled(fields: dict[str, Any], order: str, spot: SpotReading) -> dict[str, Any]:
    values, marks = spot.values(), str(fields.get(MARK) or "").split(";")
    for pair in order.split():
        field, _, value = pair.partition("=")
        if value not in SHOWS[spot.what] or value not in values:
            continue
        text = KINDS[value][1].format(values[value])
        fields = {k: v for k, v in fields.items() if k != f"_u.{field}"} | {field: text}
        marks = [m for m in marks if m and not m.startswith(f"{field}=")]
        if spot.simulated:
            marks.append(f"{field}={text}")
    return fields | {MARK: ";".join(m for m in marks if m)}


def simulated(ctx: RequestContext, fields: dict[str, Any], kinds: dict[str, str]) -> bool:
    """Whether any value of a form is still what a simulated instrument showed.

    Takes the mark out of ``fields``. ``kinds`` names the kind of quantity of each field.
    """
    for mark in str(fields.pop(MARK, "") or "").split(";"):
        field, _, text = mark.partition("=")
        if field in kinds and _same(ctx, str(fields.get(field) or ""), text, kinds[field]):
            return True
    return False


def _same(ctx: RequestContext, typed: str, text: str, kind: str) -> bool:
    try:
        now, then = (parse(t, kind, ctx.system) for t in (typed, text))
    except ValueError:
        return False
    return isclose(now, then, rel_tol=1e-6, abs_tol=1e-9)
