"""A head in section with what was measured at it: return and supply on their arrows, the split."""

from markupsafe import Markup

from fairline.core.commission.records import Running
from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text


def head_section(record: Running | None, system: System) -> Markup:
    """The air goes in at the top and leaves below; the tubes lie behind. None: nothing measured."""
    airs = [_said(value, system) for value in (_of(record, "return_c"), _of(record, "supply_c"))]
    split = None
    if record is not None and record.return_c is not None and record.supply_c is not None:
        change = show(abs(record.return_c - record.supply_c), "temperature_difference", system)
        split = change.text
    warm = record is not None and record.mode == "heat"
    parts = [
        tag("path", d="M40 52H200Q222 60 222 96L168 142H40Z", class_="shell"),
        tag("path", d="M64 66V128M80 66V128M96 66V128", class_="filled" if not warm else "tube"),
        tag("circle", cx=140.0, cy=98.0, r=20.0, class_="shell"),
        tag("path", d="M20 120H40M20 132H40", class_="tube"),
        tag("path", d="M128 10V46M118 36L128 48L138 36", class_="hose"),
        tag("path", d="M190 128L214 164M214 150V166H198", class_="hose"),
        text(146, 30, airs[0], "cylinder-text"),
        text(222, 160, airs[1], "cylinder-text stop"),
    ]
    if split is not None:
        parts.append(text(232, 100, split, "cylinder-text stop"))
    told = f"return {airs[0]}, supply {airs[1]}" + (f", split {split}" if split else "")
    return drawing(360.0, 178.0, f"The head in section: {told}", "cylinder", *parts)


def _of(record: Running | None, name: str) -> float | None:
    return getattr(record, name) if record is not None else None


def _said(value: float | None, system: System) -> str:
    return "not measured" if value is None else show(value, "temperature", system).text
