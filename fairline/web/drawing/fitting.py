"""The fittings of the line: a verdict told by shape as well as by colour."""

import math
from functools import lru_cache

from markupsafe import Markup

from fairline.core.call import Verdict
from fairline.web.drawing.svg import tag

RING = 27.5  # radius of the clock around a waiting fitting
NUT = "M-13 -15H13L15 -11V11L13 15H-13L-15 11V-11Z"


def _nut(class_: str = "nut") -> Markup:
    return tag(
        "g",
        tag("path", d=NUT, class_=class_),
        tag("path", d="M-15 -5H15M-15 6H15", class_="edge"),
    )


@lru_cache(maxsize=512)
def fitting(state: str, size: int = 48, progress: float | None = None) -> Markup:
    """A verdict, or ``todo``, as a fitting: 60 units square around the middle.

    ``progress`` (0 to 1) of a wait runs as a ring around it.
    """
    shapes: dict[str, list[Markup]] = {
        "todo": [tag("path", d="M-14 -6H4L15 -14V14L4 6H-14Z", class_="open")],
        Verdict.WAIT: [
            tag("path", d="M4 -6L15 -14V14L4 6Z", class_="cone"),
            tag("path", d="M-22 -14H-6L-4 -10V10L-6 14H-22L-24 10V-10Z", class_="nut"),
            tag("path", d="M-24 -5H-4M-24 5H-4", class_="edge"),
        ],
        Verdict.HOLDS: [_nut()],
        Verdict.WATCH: [
            _nut(),
            tag("path", d="M2 -15V-29M2 -29L18 -24L2 -19Z", class_="flag"),
        ],
        Verdict.SHORT: [_nut(), tag("path", d="M-21 21L21 -21", class_="strike")],
        Verdict.STOP: [
            tag("path", d="M-9 -22H9L22 -9V9L9 22H-9L-22 9V-9Z", class_="nut"),
            tag("path", d="M-12 0H12", class_="bar"),
        ],
        Verdict.UNKNOWN: [
            tag("path", d=NUT, class_="open"),
            tag("path", d="M-4 -4A4.5 4.5 0 1 1 2 1.5Q0 2.6 0 5M0 9.5V10.5", class_="ask"),
        ],
    }
    ring = []
    if progress is not None and state == Verdict.WAIT:
        round_ = 2 * math.pi * RING
        ring = [
            tag("circle", r=RING, class_="clock-rest"),
            tag(
                "circle",
                r=RING,
                class_="clock-ring",
                transform="rotate(-90)",
                stroke_dasharray=f"{round_ * progress:.1f} {round_:.1f}",
            ),
        ]
    return tag(
        "svg",
        *ring,
        *shapes[state],
        viewBox="-30 -30 60 60",
        width=size,
        height=size,
        class_=f"fitting fitting-{state}",
        aria_hidden="true",
        focusable="false",
    )
