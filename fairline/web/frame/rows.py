"""Rows and parts of a form: a row added or taken out, one part of an entry among the others."""

import re
from collections.abc import Iterable
from typing import Any

from fairline.core.equipment import LETTERS
from fairline.core.head_removal import next_letter

THING = {"x_m": "0.5 m", "width_m": "0.9 m"}
EACH_ROOM = "heads*"  # a head for each room that has none
BLANKS: tuple[tuple[str, dict[str, str]], ...] = (  # the fields of a new row, by its list's name
    (r"runs\..*\.legs", {"direction": "up", "length_m": "", "setting": "", "kept": ""}),
    (r"supplies\..*\.stretches", {"meets": "inside", "length_m": "", "way": ""}),
    (r"drains\..*\.parts", {"way": "along", "length_m": "", "fall_m": ""}),
    (r"levels", {"name": "", "height_m": ""}),
    (r"heads\.\d+\.options", {"name": "", "price": ""}),
    (r".*\.in_front", {"what": "", "away_m": "", "top_m": ""}),
    (r"rooms", {"name": "", "area_m2": "", "load_w": ""}),
    (r"heads", {"room": "", "form": "high-wall", "when": "now", "sheet": ""}),
    (r".*\.studs", {"x_m": ""}),
    (r"walls\..*\.things", {"kind": "window", "y_m": "0.9 m", "height_m": "1.1 m", **THING}),
    (
        r"ceilings\..*\.things",
        {"kind": "light", "x_m": "0.5 m", "y_m": "0.5 m", "width_m": "0.2 m", "length_m": "0.2 m"},
    ),
    (r"outdoor\.things", {"kind": "wall", "y_m": "0 m", "depth_m": "0.2 m", **THING}),
)


def rows_changed(
    fields: dict[str, Any], add: str, remove: str, put: str = "", named: Iterable[str] = ()
) -> dict[str, Any]:
    """The fields with a row added to a list (``legs``) or one taken out (``legs.2``).

    ``named``: the letters that the job names already, of which a new head takes none. A new head is
    planned with the sheet of the one above it. ``heads*`` adds one for each room without a head.

    ``put`` sets fields outright: ``walls.A.x_m=1.2 m;walls.A.y_m=2.1 m``.
    """
    for order in put.split(";"):
        name, _, value = order.partition("=")
        if name in fields or value == "true":  # a tick that is not set is not posted
            fields = fields | {name: value}
    if remove and "." in remove:
        return _row_removed(fields, *remove.rsplit(".", 1))
    if add == EACH_ROOM:
        while _without_head(fields):
            fields = _row_added(fields, "heads", named)
        return fields
    return _row_added(fields, add, named) if add else fields


def _row_removed(fields: dict[str, Any], prefix: str, index: str) -> dict[str, Any]:
    kept: dict[str, Any] = {}
    for name, value in fields.items():
        row, _, rest = name.removeprefix(f"{prefix}.").partition(".")
        if not name.startswith(f"{prefix}.") or not (row + index).isdecimal():
            kept[name] = value
        elif row != index:
            moved = int(row) - (int(row) > int(index))
            kept[f"{prefix}.{moved}.{rest}"] = value
    return kept


def _row_added(fields: dict[str, Any], add: str, named: Iterable[str]) -> dict[str, Any]:
    own = [name.removeprefix(f"{add}.") for name in fields if name.startswith(f"{add}.")]
    row = len({name.partition(".")[0] for name in own})
    blank = next((b for pattern, b in BLANKS if re.fullmatch(pattern, add)), {})
    if add == "heads":
        shown = (str(v) for k, v in fields.items() if re.fullmatch(r"heads\.\d+\.zone", k))
        zone = next_letter([*named, *shown]) or LETTERS[-1]
        like = {k: fields.get(f"heads.{row - 1}.{k}") or blank[k] for k in ("form", "sheet")}
        blank = blank | like | {"zone": zone, "room": _without_head(fields)}
    return fields | {f"{add}.{row}.{k}": v for k, v in blank.items()}


def _without_head(fields: dict[str, Any]) -> str:
    """The first room that no head is wanted for yet; blank where each has one."""
    rooms, served = (
        [str(v) for k, v in fields.items() if re.fullmatch(pattern, k) and v]
        for pattern in (r"rooms\.\d+\.name", r"heads\.\d+\.room")
    )
    return next((room for room in rooms if room not in served), "")


def with_the_rest(
    fields: dict[str, Any], before: dict[str, Any], part: str, merged: bool = False
) -> dict[str, Any]:
    """The fields of a form, or of one part of an entry (``walls.A``), with what it does not show.

    Another part stays as it is kept, and so does a field that the form left out because of what
    was chosen (a rail, while the unit stands on a stand). A tick that is not set posts nothing,
    and is taken for not set. ``merged``: every field that is not posted stays as it is kept.
    """
    if merged:
        return {name: value for name, value in before.items() if value != ()} | fields
    lists = {_list_of(name) for name in fields} - {""}
    rest: dict[str, Any] = {}
    for name, value in before.items():
        of_part = not part or name == part or name.startswith(f"{part}.")
        hidden = not isinstance(value, bool | tuple) and _list_of(name) not in lists
        if value != () and (hidden or not of_part):
            rest[name] = value
    mine = fields if not part else {n: v for n, v in fields.items() if n.startswith(f"{part}.")}
    return rest | mine


def _list_of(name: str) -> str:
    """The list that a field is in a row of: ``walls.A.things`` of ``walls.A.things.0.x_m``."""
    parts = name.split(".")
    at = next((i for i, part in enumerate(parts) if part.isdecimal()), None)
    return ".".join(parts[:at]) if at is not None else ""
