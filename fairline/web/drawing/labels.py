"""Labels on a drawing that keep clear of each other."""

from markupsafe import Markup

from fairline.web.drawing.svg import tag

Spot = tuple[float, float]
LETTER = 9.0  # how wide a letter of a dimension is, about


class Labels:
    """Places labels one after the other; each keeps clear of those before it."""

    def __init__(self, width: float, height: float) -> None:
        self.width, self.height = width, height
        self.taken: list[tuple[float, float, float]] = []  # middle and half width

    def keep_clear(self, x: float, y: float, half: float = 30.0) -> None:
        self.taken.append((x, y, half))

    def beside(self, a: Spot, b: Spot, number: str, words: str, state: str = "") -> Markup:
        """A leg's number and length beside its middle."""
        x, y = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
        half = LETTER * (len(words) + len(number) + 1) / 2
        across = [(x + half + 14, y + 5), (x - half - 14, y + 5)]
        along = [(x, y - 14), (x, y + 27)]
        upright = abs(b[1] - a[1]) > abs(b[0] - a[0])
        spots = [*across, *along] if upright else [*along, *across]
        spots += [(px, py + up) for px, py in spots for up in (-22.0, 22.0, 44.0)]
        inside = [
            s
            for s in spots
            if half + 2 < s[0] < self.width - half - 2 and 16 < s[1] < self.height - 4
        ]
        free = [s for s in inside if self._clear(s, half)]
        spot = (free or inside or spots)[0]
        self.taken.append((*spot, half))
        return tag(
            "text",
            tag("tspan", f"{number}  ", class_="leg-number") if number else None,
            tag("tspan", words),
            x=spot[0],
            y=spot[1],
            class_=f"dimension middle {state}".strip(),
        )

    def _clear(self, spot: Spot, half: float) -> bool:
        return all(
            abs(spot[0] - x) > half + other or abs(spot[1] - y) > 20 for x, y, other in self.taken
        )
