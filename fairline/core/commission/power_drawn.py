"""Amperes and watts of a running system, where somebody measured them; none is no fault."""

from fairline.core.call import Call, Check, Limit, Verdict, sheet_limit
from fairline.core.check import fault_call
from fairline.core.commission.records import MODE_WORDS, Mode, Running, WholeSystem
from fairline.core.practice import Rules

SLIP_SHARE = 5.0  # of the rated current: more is a slip of the digits; our own choice
IDLE_A = 1.0  # less beside a capacity is no compressor: the clamp round both legs; our own choice
IDLE_SHARE = 0.05  # of the rated current, where no capacity is known; our own choice
IDLE_W = 100.0  # less beside a capacity is no compressor; our own choice
WORKS_W = 1000.0  # of capacity: no compressor gives that on less than an ampere; our own choice
LEAST_SHARE, MOST_SHARE = 0.4, 1.6  # of rated current × share of capacity: explained; our own
WATTS_AS_AMPERES = 100.0  # no such unit draws more: watts typed as amperes; our own choice


def slipped(current_a: float | None) -> str:
    """What is asked of a current that can only be watts; blank where it can be a current.

    >>> slipped(1700.0)
    '1700 A is no current of such a unit: type 1700 under Watts, if it is that'
    """
    if current_a is None or current_a <= WATTS_AS_AMPERES:
        return ""
    said = f"{current_a:g}"
    return f"{said} A is no current of such a unit: type {said} under Watts, if it is that"


def current_check(
    mode: Mode,
    record: Running | WholeSystem,
    rules: Rules,
    capacity_w: float | None,
    rated_w: float | None,
) -> Check | None:
    """A current against MCA, and against what the share of capacity that was measured asks for.

    None where nothing was measured. ``capacity_w``: what the zone gave; without it a lower current
    says nothing.
    """
    amps, unit = record.current_a, rules.outdoor
    if amps is None:
        return None
    limit = _limit(rules)
    label = f"Current, {MODE_WORDS[mode].lower()}"
    if limit is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{amps:.1f} A; the sheet gives no current.",
            do_next="Enter rated current or MCA on the sheet.",
        )
    else:
        mca = unit.mca_a if unit is not None else None
        call = (
            _ceiling(amps, limit, mca)
            or _share(amps, rules, capacity_w, rated_w)
            or Call(
                verdict=Verdict.HOLDS,
                because=f"{amps:.1f} A, {limit.limit} {limit.value:.1f} A.",
            )
        )
    return Check(id=f"current_{mode}", label=label, call=call, value=amps, unit="A", limit=limit)


def _limit(rules: Rules) -> Limit | None:
    unit = rules.outdoor
    if unit is None or not (unit.rated_current_a or unit.mca_a):
        return None
    rated = bool(unit.rated_current_a)
    return sheet_limit(
        limit="rated current" if rated else "MCA",
        unit="A",
        value=unit.rated_current_a or unit.mca_a or 0.0,
        source=unit.source("rated_current_a" if rated else "mca_a"),
    )


def _ceiling(amps: float, limit: Limit, mca: float | None) -> Call | None:
    if amps > SLIP_SHARE * limit.value:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{amps:g} A beside a {limit.limit} of {limit.value:.1f} A: is a digit wrong?",
            do_next="Read the clamp meter again and record it.",
        )
    if mca and amps > mca:
        return fault_call(
            f"{amps:.1f} A is over the MCA of {mca:.1f} A.",
            "Switch off; check voltage, fan and valves before it runs again.",
        )
    if amps > limit.value:
        return fault_call(
            f"{amps:.1f} A is over the {limit.limit} of {limit.value:.1f} A.",
            "Check voltage and the coil's airflow.",
            Verdict.WATCH,
        )
    return None


def _share(
    amps: float, rules: Rules, capacity_w: float | None, rated_w: float | None
) -> Call | None:
    """A current beside a capacity; a partly loaded inverter draws its share of the plate."""
    rated_a = rules.outdoor.rated_current_a if rules.outdoor else None
    idle = amps < IDLE_A and (capacity_w or 0.0) >= WORKS_W
    if idle or (capacity_w is None and rated_a and amps < IDLE_SHARE * rated_a):
        beside = f" beside {capacity_w / 1000:.1f} kW" if capacity_w else ""
        return Call(
            verdict=Verdict.WAIT,
            because=f"{amps:.1f} A{beside}: the compressor does not run at that, or the clamp is "
            "round two conductors.",
            do_next="Clamp one hot leg alone while it runs, ten minutes after the start.",
        )
    if not (capacity_w and rated_w and rated_a):
        return None
    share = capacity_w / rated_w
    return _beside_share(f"{amps:.1f} A", amps, rated_a * share, share, "Clamp one hot leg alone")


def _beside_share(said: str, value: float, due: float, share: float, again: str) -> Call | None:
    """What was drawn beside what a share of the capacity asks for; None where it is near."""
    if value < LEAST_SHARE * due:
        return fault_call(
            f"{said} is little for {share:.0%} of the rated capacity.",
            f"{again}; measure supply air and airflow again.",
            Verdict.WATCH,
        )
    if value > MOST_SHARE * due:
        return fault_call(
            f"{said} is much for {share:.0%} of the rated capacity.",
            "Say whether other zones ran too; then look at filter, airflow and charge.",
            Verdict.WATCH,
        )
    return None


def watts_check(
    mode: Mode,
    record: Running | WholeSystem,
    rules: Rules,
    capacity_w: float | None = None,
    rated_w: float | None = None,
) -> Check | None:
    """Watts against what the circuit may carry and against the share of capacity; None where
    nobody measured them. The sheet's rated input is that of cooling."""
    watts, unit = record.watts, rules.outdoor
    if watts is None:
        return None
    label = f"Power, {MODE_WORDS[mode].lower()}"
    call = Call(verdict=Verdict.HOLDS, because=f"{watts:.0f} W.")
    if unit is not None and unit.mca_a and unit.voltage_v:
        most = unit.mca_a * unit.voltage_v
        call = Call(verdict=Verdict.HOLDS, because=f"{watts:.0f} W, MCA carries {most:.0f} W.")
        if watts > most:
            call = fault_call(
                f"{watts:.0f} W is more than MCA carries, {most:.0f} W.",
                "Switch off; check voltage, fan and valves before it runs again.",
            )
    if call.verdict is Verdict.HOLDS and mode == "cool":
        call = _share_of_watts(watts, rules, capacity_w, rated_w) or call
    return Check(id=f"watts_{mode}", label=label, call=call, value=watts, unit="W")


def _share_of_watts(
    watts: float, rules: Rules, capacity_w: float | None, rated_w: float | None
) -> Call | None:
    """Watts beside a capacity, by the rated input of the sheet; None where nothing is odd."""
    input_w = rules.outdoor.rated_input_w if rules.outdoor else None
    if watts < IDLE_W and (capacity_w or 0.0) >= WORKS_W:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{watts:.0f} W beside {(capacity_w or 0.0) / 1000:.1f} kW: the compressor "
            "does not run at that.",
            do_next="Read the meter again while it runs, ten minutes after the start.",
        )
    if not (capacity_w and rated_w and input_w):
        return None
    share = capacity_w / rated_w
    again = "Read the meter again"
    return _beside_share(f"{watts:.0f} W", watts, input_w * share, share, again)
