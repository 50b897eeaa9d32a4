"""Writes the factors of every unit that may be typed or is shown, from pint's own.

``python -m tools.unit_factors``; a test holds the table against pint. Read at start-up in its
place: to import pint takes longer than all the rest of ``core``.
"""

import json
from pathlib import Path

from fairline.core.quantities import by_pint
from fairline.core.units import KINDS

TABLE = Path("fairline/core/tables/unit_factors.json")


def main() -> None:
    found: dict[str, dict[str, tuple[float, float]]] = {}
    for kind in KINDS.values():
        units = {kind.us_unit, kind.si_unit, *(unit for _, unit in kind.accepts)}
        found.setdefault(kind.si, {}).update({u: by_pint(u, kind.si) for u in sorted(units)})
    rows = {si: {u: list(v) for u, v in units.items()} for si, units in sorted(found.items())}
    TABLE.write_text(json.dumps(rows, indent=1) + "\n")


if __name__ == "__main__":
    main()
