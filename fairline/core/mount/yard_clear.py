"""The room that is kept free round the outdoor unit, side by side."""

from fairline.core.calc.outdoor_position import OutdoorPositionResult
from fairline.core.call import Call, Check, Limit, Verdict
from fairline.core.check import check_limit
from fairline.core.limit_list import LimitName
from fairline.core.mount.yard import YardPlace
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.sheet import Outdoor


def clear_checks(
    place: YardPlace, unit: Outdoor, rules: Rules, m: OutdoorPositionResult, fix: str
) -> list[Check]:
    """Each side against the clearance that governs it."""
    checks: list[Check] = []
    sides: tuple[tuple[LimitName, str, float | None], ...] = (
        ("outdoor_behind", "Clear behind the outdoor unit", m.clear_behind_m),
        ("outdoor_left", "Clear at its left", m.clear_left_m),
        ("outdoor_right", "Clear at its right, for service", m.clear_right_m),
        ("outdoor_front", "Clear in front", m.clear_front_m),
        ("outdoor_above", "Clear above", m.clear_above_m),
    )
    reach = drawn_free_m(place, unit)
    for name, label, value in sides:
        limit = rules.limit(name)
        if name == "outdoor_above" and unit.discharge == "top":
            checks.append(_above_a_top_discharge(place, label, value, limit, fix))
        elif value is not None and limit is None:
            call = Call(
                verdict=Verdict.WATCH,
                because=f"{label}: {both(value, 'small')}; nobody gives a limit.",
                do_next="Look for it on the sheet.",
            )
            checks.append(
                Check(id=name, label=label, call=call, value=value, unit="m", kind="small")
            )
        elif value is not None:
            checks.append(check_limit(name, label, value, limit, "small", "min", fix))
        elif limit is not None:
            checks.append(_nothing_drawn(name, label, reach.get(name), limit))
    return checks


def drawn_free_m(place: YardPlace, unit: Outdoor) -> dict[LimitName, float]:
    """How far the drawn yard reaches beyond the unit, where nothing is drawn in between. m."""
    if None in (place.wall_m, place.yard_m, place.x_m, place.y_m, unit.width_m, unit.depth_m):
        return {}
    x, y = place.x_m or 0.0, place.y_m or 0.0
    return {
        "outdoor_left": x,
        "outdoor_right": (place.wall_m or 0.0) - x - (unit.width_m or 0.0),
        "outdoor_front": (place.yard_m or 0.0) - y - (unit.depth_m or 0.0),
    }


def _nothing_drawn(name: LimitName, label: str, reach: float | None, limit: Limit) -> Check:
    """Nothing stands on a side: as far as it is drawn, which has to be as far as is wanted."""
    if reach is None:
        call = Call(verdict=Verdict.HOLDS, because=f"{label}: nothing is drawn there.")
        return Check(id=name, label=label, call=call, limit=limit, bound="min")
    if reach < limit.value - 1e-6:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{label}: the drawing ends {both(max(reach, 0.0), 'small')} beyond it; "
            f"{both(limit.value, 'small')} are wanted free.",
            do_next="Measure on and make the drawing wider, or draw what stands there.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{label}: nothing stands within the {both(reach, 'small')} that are drawn.",
        )
    return Check(
        id=name,
        label=label,
        call=call,
        value=reach,
        unit="m",
        kind="small",
        limit=limit,
        bound="min",
    )


def _above_a_top_discharge(
    place: YardPlace, label: str, value: float | None, limit: Limit | None, fix: str
) -> Check:
    """A unit that blows up: what is above it is looked for, and only the sheet says how far."""
    id: LimitName = "outdoor_above"
    if value is None and place.above_free == "yes":
        call = Call(verdict=Verdict.HOLDS, because=f"{label}: looked up, nothing is there.")
        return Check(id=id, label=label, call=call, limit=limit, bound="min")
    if value is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="It blows up: what is above it is not said.",
            do_next="Look up: draw the eave, balcony or branches above it, or say that none is.",
        )
        return Check(id=id, label=label, call=call, limit=limit, bound="min")
    if limit is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"It blows up, {both(value, 'small')} below what is above it; the sheet gives "
            "no least clearance.",
            do_next="The sheet must say: enter its clearance above.",
        )
        return Check(id=id, label=label, call=call, value=value, unit="m", kind="small")
    return check_limit(id, label, value, limit, "small", "min", fix)
