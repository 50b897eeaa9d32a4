"""A drain seen from the side, the fall of lying parts drawn ten times as large as it is."""

from markupsafe import Markup

from fairline.core.calc.drain import DrainResult, SectionFall
from fairline.core.quantities import show
from fairline.core.route.entry import DrainPart
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, path, tag, text

TALLER = 10.0
UPRIGHT = 54.0  # what falls or is lifted, on paper


def drain_profile(
    zone: str, parts: list[DrainPart], result: DrainResult, system: System
) -> list[Markup]:
    """The profile for a wide and a narrow screen."""
    return [_drawn(zone, parts, result, system, w) for w in (780.0, 372.0)]


def _spots(parts: list[DrainPart], result: DrainResult, width: float) -> list[tuple[float, float]]:
    """Where each part begins and ends; falls drawn taller, none beyond the paper."""
    lying = sum(p.length_m or 0.0 for p in parts if p.way == "along")
    per_m = (width - 84) / max(lying, 0.5)
    spots, x, y = [(30.0, 0.0)], 30.0, 0.0
    for part, section in zip(parts, result.sections, strict=True):
        if part.way == "along":
            x += (part.length_m or 0.0) * per_m
            y += min(max((section.from_m - section.to_m) * per_m * TALLER, -90.0), 90.0)
        else:
            y += UPRIGHT if part.way == "down" else -UPRIGHT
        spots.append((x, y))
    return spots


def _fall(section: SectionFall) -> str:
    if section.fall < -1e-9:
        return "rises"
    return f"1 in {1 / section.fall:.0f}" if section.fall > 1e-4 else "no fall"


def _drawn(
    zone: str, parts: list[DrainPart], result: DrainResult, system: System, width: float
) -> Markup:
    spots = _spots(parts, result, width)
    top = min(s[1] for s in spots)
    height = max(s[1] for s in spots) - top + 78
    at = [(px, py - top + 40) for px, py in spots]
    drawn: list[object] = [
        tag("path", d=path([(26.0, at[0][1]), (width - 20, at[0][1])]), class_="level")
    ]
    for n, (part, section) in enumerate(zip(parts, result.sections, strict=True), 1):
        a, z = at[n - 1], at[n]
        state = "" if section.ok else " bad"
        drawn.append(tag("path", d=path([a, z]), class_=f"drain{state}"))
        if part.way == "along":
            words = f"part {n}: {_fall(section)}" if z[0] - a[0] > 90 else str(n)
            middle = (a[0] + z[0]) / 2, min(a[1], z[1]) - 10
            drawn.append(text(*middle, words, f"run-small middle{state}"))
        else:
            said = show(part.length_m or 0.0, "length", system).text
            words = f"part {n}: {'pumped up' if part.way == 'up' else 'down'} {said}"
            side, anchor = (12, "") if a[0] < width - 120 else (-12, " end")
            drawn.append(text(a[0] + side, (a[1] + z[1]) / 2 + 5, words, f"run-small{anchor}"))
    for dip in result.dips:
        x, y = at[dip.after]
        drawn.append(tag("path", d=f"M{x - 12:.1f} {y - 2:.1f}h24l-5 9h-14Z", class_="pool"))
        drawn.append(text(x, y + 26, "water stands", "run-small middle bad"))
    drawn.append(tag("circle", cx=at[-1][0], cy=at[-1][1], r=5.0, class_="upright"))
    told = show(result.length_m, "length", system).text
    size = "drawing-wide" if width > 500 else "drawing-narrow"
    return drawing(
        width,
        height,
        f"Drain of zone {zone}, {told}, from the side, fall ten-fold",
        f"schematic {size}",
        *drawn,
    )
