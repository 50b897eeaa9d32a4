"""The rig drawn as it is connected: pump, hoses by their bore, what is in the way, the gauge."""

from markupsafe import Markup

from fairline.core.evacuate.rig import RigEntry, RigResult
from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, number, tag, text

WIDTH, HEIGHT, Y = 400.0, 150.0, 62.0
PUMP, SYSTEM = 44.0, 356.0  # the middles of pump and system
WIDEST, THINNEST = 15.0, 3.0  # how thick a hose is drawn


def _thick(bore_mm: float) -> float:
    return min(WIDEST, max(THINNEST, bore_mm * 0.8))


def rig_drawing(rig: RigEntry, worked: RigResult, system: System) -> Markup:
    """Pump at the left, the system at the right; the gauge where it sits."""
    between = worked.pieces
    span = (SYSTEM - 26 - (PUMP + 24)) / max(1, len(between))
    parts: list[Markup] = []
    for n, (name, piece) in enumerate(between):
        x = PUMP + 24 + span * n
        thick = _thick(piece.bore_mm)
        parts.append(
            tag(
                "rect",
                x=x,
                y=Y - thick / 2,
                width=span,
                height=thick,
                class_="hose" if name.startswith("hose") else "choke",
            )
        )
        parts.append(text(x + span / 2, Y + 26 + 15 * (n % 2), name, "piece"))
    if not between:
        parts.append(tag("path", d=f"M{PUMP + 24} {Y}H{SYSTEM - 26}", class_="unsaid"))
    said = "pump"
    if rig.pump_m3_s:
        said = show(rig.pump_m3_s, "airflow", system).text
    gauge_x = {"far": SYSTEM, "core-tool": SYSTEM - 44, "pump": PUMP + 34}.get(rig.gauge_at or "")
    if gauge_x is not None:
        parts.append(tag("path", d=f"M{number(gauge_x)} {Y - 4}V30", class_="stem"))
        state = "gauge wrong" if rig.gauge_at == "pump" else "gauge"
        parts.append(tag("circle", cx=gauge_x, cy=20.0, r=13.0, class_=state))
        parts.append(text(gauge_x, 25, "µ", "dial"))
    if rig.gauge_at == "core-tool":
        parts.append(tag("path", d=f"M{SYSTEM - 62} {Y - 11}l12 22m0 -22l-12 22", class_="valve"))
    else:
        parts.append(tag("path", d=f"M{PUMP + 52} {Y - 11}l12 22m0 -22l-12 22", class_="valve"))
    label = "The rig: " + ", ".join(["pump", *(name for name, _ in between), "system"])
    return drawing(
        WIDTH,
        HEIGHT,
        label,
        "rig",
        *parts,
        tag("circle", cx=PUMP, cy=Y, r=24.0, class_="pump"),
        text(PUMP, Y + 46, said, "piece"),
        tag("rect", x=SYSTEM - 26, y=Y - 24, width=52.0, height=48.0, class_="system"),
        text(SYSTEM, Y + 46, "system", "piece"),
        text(WIDTH / 2, HEIGHT - 12, worked.limits[:64], "limits"),
    )
