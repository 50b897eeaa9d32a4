"""The outdoor unit as a bar that its heads fill: those of now, those of later, what it carries."""

from collections.abc import Sequence

from markupsafe import Markup

from fairline.core.quantities import show
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, tag, text

LEFT, WIDTH, TOP, TALL = 8.0, 344.0, 26.0, 34.0


def carrying(
    heads: Sequence[tuple[str, float, bool]], most_w: float, least_w: float | None, system: System
) -> Markup:
    """``heads``: zone, its capacity in W, whether it comes later; ``most_w``: connected at most."""
    total = sum(w for _, w, _ in heads)
    scale = WIDTH / max(total, most_w, 1.0)
    parts = [tag("rect", x=LEFT, y=TOP, width=most_w * scale, height=TALL, class_="shell")]
    x = LEFT
    for zone, watts, later in heads:
        wide = watts * scale
        inside = "shell" if later else "content"
        parts.append(tag("rect", x=x, y=TOP, width=wide, height=TALL, class_=inside))
        parts.append(tag("path", d=f"M{x + wide:.1f} {TOP:g}v{TALL:g}", class_="was"))
        parts.append(text(x + wide / 2 - 5, TOP + 23, zone, "cylinder-text"))
        x += wide
    for limit_w, above in ((least_w, True), (most_w, False)):
        if limit_w:
            at = LEFT + limit_w * scale
            parts.append(tag("path", d=f"M{at:.1f} {TOP - 6:g}v{TALL + 12:g}", class_="mark"))
            said = (
                f"{'at least' if above else 'at most'} {show(limit_w, 'power', system, True).text}"
            )
            place = min(max(at - 70, LEFT), LEFT + WIDTH - 9 * len(said))
            parts.append(text(place, TOP - 10 if above else TOP + TALL + 20, said, "cylinder-text"))
    told = f"{show(total, 'power', system).text} connected of {show(most_w, 'power', system).text}"
    return drawing(360.0, TOP + TALL + 28, f"The outdoor unit: {told}", "cylinder", *parts)
