"""Which tubes answered which call: heads on the left, ports on the right, a line a call."""

from collections.abc import Mapping, Sequence

from markupsafe import Markup

from fairline.web.drawing.svg import drawing, tag, text

ROW, TOP, LEFT, RIGHT = 44.0, 24.0, 60.0, 290.0


def crossing(
    ports: Mapping[str, str],
    answered: Mapping[str, Sequence[str]],
    swaps: Sequence[tuple[str, str]],
) -> Markup:
    """``ports``: each head's own; ``answered``: of the heads that were called, which did."""
    heads, order = list(ports), list(ports.values())
    parts: list[Markup] = []
    for n, head in enumerate(heads):
        y = TOP + n * ROW
        for port in answered.get(head, ()):
            if port in order:
                own = port == ports[head]
                to = TOP + order.index(port) * ROW
                d = f"M{LEFT + 18:g} {y:g}L{RIGHT - 18:g} {to:g}"
                parts.append(tag("path", d=d, class_="hose" if own else "mark"))
        for x, words in ((LEFT, head), (RIGHT, order[n])):
            parts.append(tag("circle", cx=x, cy=y, r=18.0, class_="shell"))
            parts.append(text(x - 5.0 * min(len(words), 3), y + 6, words[:3], "cylinder-text"))
    told = "; ".join(_told(head, answered) for head in heads)
    swapped = "".join(f"; exchange on {a} and {b}" for a, b in swaps)
    height = TOP + ROW * (len(heads) - 1) + 26
    return drawing(350.0, height, f"Calls: {told}{swapped}", "cylinder", *parts)


def _told(head: str, answered: Mapping[str, Sequence[str]]) -> str:
    if head not in answered:
        return f"{head} not called"
    return f"{head} called: {', '.join(answered[head]) or 'none'} answered"
