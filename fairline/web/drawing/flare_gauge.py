"""A joint drawn: the torque window with what was applied, the flare's size around the tube."""

from markupsafe import Markup

from fairline.core.flare.stage import Joint
from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text


def flare_gauge(joint: Joint, system: System) -> Markup | None:
    """The torque window as a scale; None while no target is known."""
    result = joint.answer.result if joint.answer else None
    if result is None or result.target_nm is None or result.aim_nm is None:
        return None
    low, high = result.target_nm
    applied = joint.record.applied_nm if joint.record else None
    first = min(low * 0.6, (applied or low) * 0.95)
    last = max(high * 1.3, (applied or high) * 1.05)

    def x(nm: float) -> float:
        return 10 + 300 * (nm - first) / (last - first)

    def said(nm: float) -> str:
        return show(nm, "torque", system).number

    words = (
        f"{joint.label}: wants {show(low, 'torque', system).text} to "
        f"{show(high, 'torque', system).text}"
    )
    parts: list[object] = [
        tag("rect", x=10.0, y=22.0, width=300.0, height=12.0, class_="out"),
        tag("rect", x=x(low), y=22.0, width=x(high) - x(low), height=12.0, class_="in"),
        text(x(low), 52, said(low), "said middle"),
        text(x(high), 52, said(high), "said middle"),
        tag("path", d=f"M{x(result.aim_nm):.1f} 20V36", class_="edge"),
    ]
    if applied is not None:
        words += f", got {show(applied, 'torque', system).text}"
        good = low <= applied <= high
        parts.append(
            tag(
                "path",
                d=f"M{x(applied):.1f} 21l-8 -13h16z",
                class_="pointer good" if good else "pointer",
            )
        )
    return drawing(320, 58, words, "scale", *parts)
