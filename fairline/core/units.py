"""The kinds of quantity of the job: their SI unit, what each system shows, what may be typed."""

import math
from importlib.resources import files
from json import loads
from typing import Literal

from fairline.core.call import Frozen

System = Literal["us", "si"]


class Kind(Frozen):
    """A kind of quantity: its SI unit, what each system shows, how finely, what may be typed."""

    name: str
    si: str
    us_unit: str
    si_unit: str
    us_label: str
    si_label: str
    us_places: int
    si_places: int
    accepts: tuple[tuple[str, str], ...]
    offered: tuple[str, ...]  # the units a field offers to type it in
    style: Literal["number", "feet", "inches", "yes_no"] = "number"
    minimum: float = -math.inf
    maximum: float = math.inf
    model_config = {**Frozen.model_config, "allow_inf_nan": True}


def _kinds() -> list[Kind]:
    """The kinds of ``tables/kinds.json``: there the words that may be typed stand by their unit."""
    rows = loads((files("fairline.core") / "tables" / "kinds.json").read_text("utf-8"))
    found = []
    for row in rows:
        ends: dict[str, str | int] = {}
        for ours, its in (("us", "us"), ("si", "metric")):
            unit, label, places = row.pop(its)
            ends |= {f"{ours}_unit": unit, f"{ours}_label": label, f"{ours}_places": places}
        accepts = tuple(
            (w, unit) for unit, words in row.pop("accepts").items() for w in words.split()
        )
        found.append(Kind(**row, **ends, accepts=accepts))
    return found


KINDS: dict[str, Kind] = {k.name: k for k in _kinds()}


EXAMPLES = {  # what is shown beside a number that was not understood
    "length": "12' 6\" or 3.8 m",
    "small": '4 1/2" or 115 mm',
    "tube": '1/4" or 6.35 mm',
    "gauge": "300 psi or 20.7 bar",
    "vacuum": "500 microns or 67 Pa",
    "temperature": "68 F or 20 C",
    "charge": "1.1 oz or 31 g",
    "weight": "75 lb or 34 kg",
    "cylinder": "17.3 lb or 7.842 kg",
    "torque": "12 lbf·ft or 16 N·m",
    "power": "12000 BTU/h or 3.5 kW",
    "airflow": "400 cfm or 680 m3/h",
    "rate": "0.22 oz/ft or 20 g/m",
    "duration": "30 min or 1 h",
    "fraction": "50 %",
    "current": "6.2 A",
    "area": "120 ft2 or 11 m2",
    "volume": "55 in3 or 0.9 l",
    "needle": "−30 inHg or −0.1 MPa",
    "voltage": "230 V",
}


def example_of(k: Kind, system: System) -> str:
    """How a quantity of a kind is typed, with its unit."""
    return EXAMPLES.get(k.name, f"12 {k.us_label if system == 'us' else k.si_label}")
