"""The two service valves of a circuit: how each stands, the hose at the port, the caps."""

from markupsafe import Markup

from fairline.core.charge.valve_order import ValveProgress
from fairline.web.drawing.svg import drawing, tag, text

WORDS = {"shut": "shut", "cracked": "cracked", "open": "open"}
TURN = {"shut": 90, "cracked": 62, "open": 0}  # of the bar across the way, in degrees
LEFT, MIDDLE, RIGHT = 20.0, 112.0, 236.0  # unit, valve, line
ROWS = {"liquid": 46.0, "gas": 118.0}


def valve_pair(progress: ValveProgress) -> Markup:
    """Liquid above, gas below: the unit on the left, the line on the right."""
    wet = any(progress.valve(side) != "shut" for side in ROWS)
    parts: list[Markup | None] = []
    for side, y in ROWS.items():
        parts += _valve(side, y, progress.valve(side), wet, progress.caps)
    parts += _port(progress)
    told = ", ".join(f"{side} valve {WORDS[progress.valve(side)]}" for side in ROWS)
    hose = ", hose on the port" if progress.hose else ""
    caps = ", caps on" if progress.caps else ""
    of = f" of port {progress.circuit}" if progress.circuit else ""
    return drawing(360.0, 164.0, f"The valves{of}: {told}{hose}{caps}", "cylinder", *parts)


def _valve(side: str, y: float, state: str, wet: bool, caps: bool) -> list[Markup | None]:
    turn = f"rotate({TURN[state]} {MIDDLE:g} {y:g})"
    return [
        tag("path", d=f"M{LEFT:g} {y:g}H{MIDDLE:g}", class_="filled"),
        tag("path", d=f"M{MIDDLE:g} {y:g}H{RIGHT:g}", class_="filled" if wet else "tube"),
        tag("rect", x=MIDDLE - 24, y=y - 22, width=48.0, height=44.0, rx=8.0, class_="shell"),
        tag("path", d=f"M{MIDDLE - 17:g} {y:g}h34", class_=f"bar {state}", transform=turn),
        tag("path", d=f"M{MIDDLE - 12:g} {y - 22:g}v-9h24v9", class_="shell"),
        tag("rect", x=MIDDLE - 16, y=y - 36, width=32.0, height=12.0, rx=3.0, class_="scale")
        if caps
        else None,
        text(RIGHT + 8, y - 2, f"{side.capitalize()}", "cylinder-text"),
        text(RIGHT + 8, y + 20, WORDS[state], "cylinder-text stop"),
    ]


def _port(progress: ValveProgress) -> list[Markup | None]:
    """The service port below the gas valve: with the hose on it, or its cap."""
    y = ROWS["gas"] + 22
    found: list[Markup | None] = [
        tag("rect", x=MIDDLE - 5, y=y, width=10.0, height=12.0, class_="scale"),
    ]
    if progress.hose:
        found.append(
            tag(
                "path",
                d=f"M{MIDDLE:g} {y + 12:g}C{MIDDLE:g} {y + 30:g} {LEFT + 46:g} {y + 18:g} "
                f"{LEFT + 22:g} {y - 4:g}",
                class_="hose",
            )
        )
        found.append(tag("circle", cx=LEFT + 14, cy=y - 14, r=13.0, class_="shell"))
    elif progress.caps:
        found.append(
            tag("rect", x=MIDDLE - 10, y=y + 8, width=20.0, height=10.0, rx=3.0, class_="scale")
        )
    return found
