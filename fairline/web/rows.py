"""Rows and parts of a form: a row added or taken out, one part of an entry among the others."""

import re
from typing import Any

from fairline.core.equipment import LETTERS


def _next_zone(fields: dict[str, Any]) -> str:
    """The letter after the last one a head of the survey has."""
    taken = [str(v) for k, v in fields.items() if re.fullmatch(r"heads\.\d+\.zone", k)]
    last = max((LETTERS.find(z) for z in taken), default=-1)
    return LETTERS[min(last + 1, len(LETTERS) - 1)]


THING = {"x_m": "0.5 m", "width_m": "0.9 m"}
BLANKS: tuple[tuple[str, dict[str, str]], ...] = (  # the fields of a new row, by its list's name
    (r"runs\..*\.legs", {"direction": "up", "length_m": "", "setting": ""}),
    (r"drains\..*\.parts", {"way": "along", "length_m": "", "fall_m": ""}),
    (r"levels", {"name": "", "height_m": ""}),
    (r"rooms", {"name": "", "area_m2": "", "load_w": ""}),
    (r"heads", {"room": "", "form": "high-wall", "when": "now", "sheet": ""}),
    (r".*\.studs", {"x_m": ""}),
    (r"walls\..*\.things", {"kind": "window", "y_m": "0.9 m", "height_m": "1.1 m", **THING}),
    (r"ceilings\..*\.things", {"kind": "light", "x_m": "0.5 m", "y_m": "0.5 m",
                               "width_m": "0.2 m", "length_m": "0.2 m"}),
    (r"outdoor\.things", {"kind": "wall", "y_m": "0 m", "depth_m": "0.2 m", **THING}),
)  # fmt: skip


def rows_changed(fields: dict[str, Any], add: str, remove: str, put: str = "") -> dict[str, Any]:
    """The fields with a row added to a list (``legs``) or one taken out (``legs.2``).

    ``put`` sets fields outright: ``walls.A.x_m=1.2 m;walls.A.y_m=2.1 m``.
    """
    for order in put.split(";"):
        name, _, value = order.partition("=")
        if name in fields:
            fields = fields | {name: value}
    if remove and "." in remove:
        prefix, index = remove.rsplit(".", 1)
        kept: dict[str, Any] = {}
        for name, value in fields.items():
            row, _, rest = name.removeprefix(f"{prefix}.").partition(".")
            if not name.startswith(f"{prefix}.") or not (row + index).isdecimal():
                kept[name] = value
            elif row != index:
                moved = int(row) - (int(row) > int(index))
                kept[f"{prefix}.{moved}.{rest}"] = value
        return kept
    if add:
        rows = {
            name.removeprefix(f"{add}.").partition(".")[0]
            for name in fields
            if name.startswith(f"{add}.")
        }
        blank = next((b for pattern, b in BLANKS if re.fullmatch(pattern, add)), {})
        if add == "heads":
            blank = blank | {"zone": _next_zone(fields)}
        return fields | {f"{add}.{len(rows)}.{k}": v for k, v in blank.items()}
    return fields


def with_the_rest(
    fields: dict[str, Any], before: dict[str, Any], part: str, merged: bool = False
) -> dict[str, Any]:
    """The fields of one part of an entry (``walls.A``), with all other parts as they are kept.

    ``merged``: every field that is not posted stays as it is kept.
    """
    if merged:
        return {name: value for name, value in before.items() if value != ()} | fields
    if not part:
        return fields
    rest = {
        name: value
        for name, value in before.items()
        if name != part and not name.startswith(f"{part}.")
    }
    return rest | {name: v for name, v in fields.items() if name.startswith(f"{part}.")}
