"""The header of a logger's file: what each column measures, and in which unit."""

import re

from fairline.core.errors import FairLineError
from fairline.core.physics.constants import (
    HOUR_S,
    INCH_MERCURY_PA,
    MICRON_PA,
    MINUTE_S,
    PSI_PA,
    TORR_PA,
)
from fairline.core.readings import RunKind


class CsvError(FairLineError, ValueError):
    """What is wrong in a file, with its line and column (both from 1)."""

    def __init__(self, reason: str, line: int | None = None, column: int | None = None) -> None:
        where = f"line {line}" if line else "the file"
        if column:
            where += f", column {column}"
        super().__init__(f"{where}: {reason}")
        self.line, self.column = line, column


COLUMNS: dict[str, tuple[str, float, float]] = {  # name: field, factor, offset
    "t_s": ("t_s", 1.0, 0.0),
    "t_min": ("t_s", MINUTE_S, 0.0),
    "gauge_pa": ("gauge_pa", 1.0, 0.0),
    "gauge_psi": ("gauge_pa", PSI_PA, 0.0),
    "gauge_bar": ("gauge_pa", 1e5, 0.0),
    "gauge_kpa": ("gauge_pa", 1e3, 0.0),
    "gauge_mpa": ("gauge_pa", 1e6, 0.0),
    "gauge_inhg": ("gauge_pa", INCH_MERCURY_PA, 0.0),
    "t_h": ("t_s", HOUR_S, 0.0),
    "pipe_c": ("pipe_c", 1.0, 0.0),
    "pipe_f": ("pipe_c", 5 / 9, -160 / 9),
    "pa": ("pa", 1.0, 0.0),
    "micron": ("pa", MICRON_PA, 0.0),
    "mbar": ("pa", 100.0, 0.0),
    "torr": ("pa", TORR_PA, 0.0),
    "mtorr": ("pa", MICRON_PA, 0.0),
}
UNITS: dict[str, tuple[str, str]] = {  # a unit in a header: what it measures, its column's end
    "s": ("time", "s"),
    "sec": ("time", "s"),
    "secs": ("time", "s"),
    "second": ("time", "s"),
    "seconds": ("time", "s"),
    "min": ("time", "min"),
    "mins": ("time", "min"),
    "minute": ("time", "min"),
    "minutes": ("time", "min"),
    "h": ("time", "h"),
    "hr": ("time", "h"),
    "hours": ("time", "h"),
    "psi": ("gauge", "psi"),
    "psig": ("gauge", "psi"),
    "bar": ("gauge", "bar"),
    "barg": ("gauge", "bar"),
    "kpa": ("gauge", "kpa"),
    "mpa": ("gauge", "mpa"),
    "inhg": ("gauge", "inhg"),
    "pa": ("pressure", "pa"),
    "micron": ("vacuum", "micron"),
    "microns": ("vacuum", "micron"),
    "µ": ("vacuum", "micron"),
    "um": ("vacuum", "micron"),
    "µm": ("vacuum", "micron"),
    "umhg": ("vacuum", "micron"),
    "µmhg": ("vacuum", "micron"),
    "mbar": ("vacuum", "mbar"),
    "hpa": ("vacuum", "mbar"),
    "torr": ("vacuum", "torr"),
    "mtorr": ("vacuum", "mtorr"),
    "c": ("temperature", "c"),
    "°c": ("temperature", "c"),
    "degc": ("temperature", "c"),
    "f": ("temperature", "f"),
    "°f": ("temperature", "f"),
    "degf": ("temperature", "f"),
}
WORDS: dict[str, str] = {  # a word in a header: what it measures
    "time": "time",
    "elapsed": "time",
    "t": "time",
    "pressure": "pressure",
    "gauge": "pressure",
    "p": "pressure",
    "vacuum": "vacuum",
    "pipe": "temperature",
    "temperature": "temperature",
    "temp": "temperature",
    "probe": "temperature",
}
DOUBTFUL = {
    "time": "s, min or h, or the date and time of each reading",
    "pressure": "its unit",
    "vacuum": "micron, Pa or mbar",
    "temperature": "C or F",
}


def column_of(header: str, kind: RunKind) -> str:
    """Our name for a logger's header: ``Pressure [psi]`` is ``gauge_psi``; else as it stands.

    Raises CsvError where it plainly measures something needed and its unit is not said.
    """
    name = header.strip().lower().lstrip("'")
    if name in COLUMNS or name in ("time", "instrument", "seq", "probe", "side", "simulated"):
        return name
    parts = [p for p in re.split(r"[\s()\[\]{}/_,:.-]+", name) if p]
    unit = next((UNITS[p] for p in reversed(parts) if p in UNITS), None)
    what = next((WORDS[p] for p in parts if p in WORDS), None)
    if unit is None and what is not None:
        raise CsvError(f"the column “{header.strip()[:30]}” does not say {DOUBTFUL[what]}", 1)
    if unit is None:
        return name
    measured, end = unit
    if measured == "time":
        return f"t_{end}"
    if measured == "temperature":
        outdoors = {"ambient", "outdoor", "outdoors", "air", "room"} & set(parts)
        return name if outdoors else f"pipe_{end}"
    if measured == "vacuum":
        return end
    if end == "pa":
        return "gauge_pa" if kind == "hold" else "pa"
    return f"gauge_{end}"
