"""Axes shared by the charts: round ticks, a plot area."""

import math
from dataclasses import dataclass

from markupsafe import Markup

from fairline.web.drawing.svg import tag, text


@dataclass(frozen=True)
class Frame:
    """A plot area in drawing units; two sizes, so that text keeps its size on a phone."""

    width: float
    height: float
    left: float = 62.0
    right: float = 14.0
    top: float = 14.0
    bottom: float = 40.0

    @property
    def x1(self) -> float:
        return self.width - self.right

    @property
    def y1(self) -> float:
        return self.height - self.bottom


WIDE = Frame(width=780, height=330)
NARROW = Frame(width=372, height=320, left=58, right=8)


def ticks(low: float, high: float, about: int = 6) -> list[float]:
    """Round numbers between two ends: steps of 1, 2 or 5 times a power of ten."""
    if not high > low:
        return [low]
    rough = (high - low) / about
    power = 10 ** math.floor(math.log10(rough))
    step = next(m * power for m in (1, 2, 5, 10) if m * power >= rough)
    first = math.ceil(low / step - 1e-9)
    last = math.floor(high / step + 1e-9)
    return [i * step for i in range(first, last + 1)]


TIME_STEPS_S = (
    1,
    2,
    5,
    10,
    15,
    30,
    60,
    120,
    300,
    600,
    900,
    1800,
    3600,
    7200,
    10800,
    14400,
    21600,
    43200,
    86400,
    172800,
)


def time_axis(frame: Frame, span_s: float, caption: str) -> tuple[Markup, str]:
    """The time axis below the plot: seconds, minutes or hours, by the span."""
    unit, name = (1, "s") if span_s <= 120 else (60, "min") if span_s <= 7200 else (3600, "h")
    most = 7 if frame.width > 500 else 5
    step = next((s for s in TIME_STEPS_S if span_s / s <= most), TIME_STEPS_S[-1])
    parts = []
    for i in range(int(span_s // step) + 1):
        x = frame.left + (frame.x1 - frame.left) * (i * step / span_s)
        parts.append(tag("path", d=f"M{x:.1f} {frame.y1:.1f}v6", class_="tick"))
        last = x > frame.width - 14  # its number would be cut
        words, anchor = f"{i * step / unit:g}", "end" if last else "middle"
        parts.append(text(x + 4 if last else x, frame.y1 + 20, words, f"tick-text {anchor}"))
    parts.append(text(frame.x1, frame.height - 4, f"{name} {caption}", "tick-text end"))
    return Markup("").join(parts), name
