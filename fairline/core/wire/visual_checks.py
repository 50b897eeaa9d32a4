"""What is looked at along a circuit: its way, its disconnect, what may be wrong, who makes it."""

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import (
    check_choice,
    check_limit,
    fault_call,
    unknown_check,
    waiting_check,
)
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.route.entry import OUTDOOR
from fairline.core.wire.circuit import Rating, overcurrent, plate_limit
from fairline.core.wire.entry import Supply


def junction_checks(entry: Supply) -> list[Check]:
    """The box in which an old wire is lengthened: it stays reachable, its splices are rated."""
    if entry.joined != "yes":
        return []
    return [
        check_choice(
            "box",
            "Junction box",
            entry.box,
            ("reached",),
            {
                "hidden": fault_call(
                    "The box in which the circuit is lengthened is closed in.",
                    "Move it to where it can be reached without opening the wall (314.29).",
                )
            },
            "Look for the box: it stays where a hand reaches it.",
        ),
        check_choice(
            "splices",
            "Splices",
            entry.splices,
            ("rated",),
            {
                "unrated": fault_call(
                    "The splices in the box are not rated for these wires.",
                    "Use splices rated for both sizes and both metals, and pull each.",
                    Verdict.STOP,
                )
            },
            "Look into the box: splices rated for both wires, each pulled.",
        ),
    ]


def disconnect_checks(entry: Supply, found: Rating, rules: Rules) -> list[Check]:
    id, label = "disconnect", "Disconnect"
    if entry.disconnect is None:
        return [
            waiting_check(id, label, "No disconnect is entered.", "Say what switches the unit off.")
        ]
    if entry.disconnect == "none":
        call = fault_call(
            "There is no disconnect at the unit.",
            "Fit one in sight of it; a panel in sight is one.",
        )
        return [Check(id=id, label=label, call=call)]
    checks = []
    if entry.disconnect == "fused":
        checks.append(overcurrent("fuse", "Fuse", entry.fuse_a, found))
    if entry.disconnect != "panel":
        checks.append(_disconnect_rating(entry, found))
    limit = rules.limit("disconnect_distance")
    if entry.in_sight == "no":
        call = fault_call(
            "The disconnect is not in sight of the unit.",
            "Fit one that whoever works on the unit can see.",
        )
        checks.append(Check(id="sight", label="Disconnect in sight", call=call))
    elif entry.in_sight is None:
        checks.append(
            waiting_check(
                "sight",
                "Disconnect in sight",
                "Whether the disconnect is in sight is not said.",
                "Stand at the unit and look.",
            )
        )
    else:
        checks.append(
            check_limit(
                "sight",
                "Disconnect to the unit",
                entry.disconnect_m,
                limit,
                "length",
                "max",
                "Move the disconnect nearer: in sight means near, too.",
            )
        )
    return checks


def _disconnect_rating(entry: Supply, found: Rating) -> Check:
    id, label = "disconnect", "Disconnect"
    if entry.disconnect_a is None:
        return waiting_check(
            id, label, "The disconnect's rating is not entered.", "Read it off its label."
        )
    if found.mca_a is None:
        return unknown_check(id, label, "MCA is not known.", "Read MCA off the nameplate.")
    said = f"The disconnect is rated {entry.disconnect_a:g} A"
    fuse = entry.fuse_a if entry.disconnect == "fused" else None
    most = max(found.mca_a, fuse or 0.0)
    if entry.disconnect_a < most:
        why = f"its fuses are {fuse:g} A" if fuse == most else f"MCA is {most:g} A"
        call = fault_call(f"{said}; {why}.", f"Fit one of {most:g} A or more.")
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{said} for MCA {found.mca_a:g} A.")
    return Check(
        id=id,
        label=label,
        call=call,
        value=entry.disconnect_a,
        unit="A",
        bound="min",
        limit=plate_limit("MCA", found.mca_a, found),
    )


REST: dict[str, tuple[str, str, str]] = {  # what is looked at: label, its good answer, in words
    "dedicated": ("Nothing else on the circuit", "yes", "nothing else is on it"),
    "grounded": ("Equipment ground", "yes", "a ground of its own"),
    "neutral": ("Neutral", "ok", "no neutral, or capped"),
    "white": ("White used as hot", "ok", "no white as hot, or re-marked at both ends"),
    "left_behind": ("Wire left behind", "ok", "nothing left behind, or cut, capped, labelled"),
    "whip": ("Whip", "yes", "a liquid-tight whip with its drip loop"),
    "bushing": ("Bushing at raw metal", "ok", "a bushing wherever a cable enters raw metal"),
    "receptacle": ("Service receptacle", "yes", "a service receptacle near"),
    "gfci": ("GFCI", "ok", "GFCI where local code asks"),
}


def asked_of(unit: str) -> dict[str, tuple[str, str, str]]:
    """What is looked at on a unit's circuit; a head indoors has no whip and no receptacle."""
    outdoors = ("whip", "receptacle")
    return {k: v for k, v in REST.items() if unit == OUTDOOR or k not in outdoors}


def visual_checks(unit: str, entry: Supply, found: Rating, rules: Rules) -> list[Check]:
    """What is looked at, one by one; the ground has a check of its own."""
    asked = asked_of(unit)
    return [c for c in _rest(unit, entry, found, rules) if c.id in asked]


def _rest(unit: str, entry: Supply, found: Rating, rules: Rules) -> list[Check]:
    near = rules.value("receptacle_distance") or 0.0
    return [
        check_choice(
            "dedicated",
            "Dedicated circuit",
            entry.dedicated,
            ("yes",) if unit == OUTDOOR else ("yes", "heads"),
            {
                "no": fault_call(
                    "Something else hangs on the circuit.",
                    "Give the unit a circuit of its own.",
                ),
                "heads": fault_call(
                    "Heads hang on the outdoor unit's circuit.",
                    "Give the outdoor unit a circuit of its own.",
                ),
            },
            "Switch the breaker off and look what else goes dead.",
        ),
        _neutral(entry, found.low),
        check_choice(
            "white",
            "White used as hot",
            entry.white,
            ("ok",),
            {
                "unmarked": fault_call(
                    "A white conductor is hot and not marked so.",
                    "Re-mark it with tape at both ends, all round.",
                )
            },
            "Look at both ends: a white used as hot is re-marked.",
        ),
        check_choice(
            "left_behind",
            "Wire left behind",
            entry.left_behind,
            ("ok",),
            {
                "open": fault_call(
                    "An old wire is left open.", "Cut it, cap it, label both its ends."
                )
            },
            "Look for what an older machine left: it is cut, capped, labelled.",
        ),
        check_choice(
            "whip",
            "Whip",
            entry.whip,
            ("yes",),
            {
                "no": fault_call(
                    "No liquid-tight whip with a drip loop goes to the unit.",
                    "Fit one: water runs along anything straight.",
                )
            },
            "Look at the last piece to the unit: liquid-tight, with a drip loop.",
        ),
        check_choice(
            "bushing",
            "Bushing at raw metal",
            entry.bushing,
            ("ok",),
            {
                "missing": fault_call(
                    "A cable enters raw metal without a bushing: its edge cuts the jacket.",
                    "Fit a bushing or a connector wherever a cable enters raw metal.",
                )
            },
            "Look at every hole in metal that a cable enters: a bushing or connector.",
        ),
        check_choice(
            "receptacle",
            "Service receptacle",
            entry.receptacle,
            ("yes",),
            {
                "no": fault_call(
                    f"No service receptacle within {both(near, 'length')}.",
                    "Tell the customer and the electrician: a code asks for one in many places.",
                    Verdict.WATCH,
                )
            },
            f"Look for a receptacle within {both(near, 'length')} of the unit.",
        ),
        _gfci(entry, rules),
    ]


def _neutral(entry: Supply, low: bool) -> Check:
    id, label = "neutral", "Neutral"
    calls = {
        "on-ground": fault_call(
            "A neutral is landed on a ground.",
            "Take it off at unit, disconnect and sub-panel; neutral and ground meet in the main "
            "panel alone.",
            Verdict.STOP,
        ),
        "loose": fault_call("A neutral that came along hangs loose.", "Cap it at both ends."),
        "used": Call(verdict=Verdict.HOLDS, because="The neutral is used, as the unit wants.")
        if low
        else fault_call(
            "A neutral is landed on a unit that takes two hots.", "Take it off and cap it."
        ),
        "ok": fault_call(
            "The unit takes a neutral, and none is landed.", "Land the neutral on N.", Verdict.SHORT
        )
        if low
        else Call(verdict=Verdict.HOLDS, because="No neutral, or capped."),
    }
    if entry.neutral is None:
        return waiting_check(
            id, label, "Neutral: not looked at yet.", "Look where the neutral ends."
        )
    return Check(id=id, label=label, call=calls[entry.neutral])


def _gfci(entry: Supply, rules: Rules) -> Check:
    limit, asked = rules.limit("gfci_asked"), rules.yes("gfci_asked")
    if entry.gfci is None:
        told = {
            True: "Local code asks for GFCI: look at the breaker.",
            False: "Local code does not ask for GFCI: say so.",
            None: "Ask the local code whether it wants GFCI here, and look.",
        }[asked]
        return waiting_check("gfci", "GFCI", "GFCI: not looked at yet.", told)
    if entry.gfci == "missing":
        call = fault_call(
            "GFCI is asked for and missing.", "Fit a GFCI breaker that the sheet allows."
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because="GFCI is there, or local code does not ask.")
    return Check(id="gfci", label="GFCI", call=call, limit=limit, kind="yes_no")


def head_later_checks(entry: Supply, ampacity: float | None) -> list[Check]:
    """Whether the circuit would still serve a unit wanted later."""
    if entry.later_mca_a is None or ampacity is None:
        return []
    mca, mop = entry.later_mca_a, entry.later_mop_a
    if ampacity < mca:
        call = fault_call(
            f"The conductor carries {ampacity:g} A; the unit wanted later has MCA {mca:g} A.",
            "Pull the larger conductor now, and its ground, or tell the customer.",
            Verdict.WATCH,
        )
    else:
        breaker = f", with a breaker of at most {mop:g} A then" if mop is not None else ""
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"It would serve the unit wanted later, MCA {mca:g} A{breaker}.",
        )
    return [Check(id="later", label="A unit wanted later", call=call)]


def connection_check(entry: Supply, rules: Rules, title: str) -> Check:
    """Who makes the connection to the panel; until they have been, it waits for them."""
    id, label = "who", "Connection at the panel"
    limit, asked = rules.limit("licence_asked"), rules.yes("licence_asked")
    name = entry.who_name or {"us": "us", "electrician": "an electrician"}.get(entry.who or "", "")
    if entry.who is None:
        told = "The law asks for a licensed person." if asked else "Ask what the law asks for."
        return waiting_check(id, label, f"Who connects the {title} at the panel is not said.", told)
    if asked and not entry.licence:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"The law asks for a licence; the number of {name} is not entered.",
            do_next="Enter the licence number.",
        )
    elif entry.been != "yes":
        when = f", due {entry.comes}" if entry.comes else ""
        call = Call(
            verdict=Verdict.WAIT,
            because=f"The {title} waits for {name}{when}.",
            do_next=f"When {name} has connected it, say so."
            if entry.comes
            else "Agree on a day, and enter when they come.",
        )
    else:
        number = f", licence {entry.licence}" if entry.licence else ""
        call = Call(verdict=Verdict.HOLDS, because=f"Connected by {name}{number}.")
    return Check(id=id, label=label, call=call, limit=limit, kind="yes_no")
