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
