"""The system as a tree: unit, ports, main run, box, tees, heads; a line for every head and port."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from markupsafe import Markup

from fairline.core.physics.tubing import tube_at
from fairline.core.quantities import show
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.piping import Piping, Stretch, kind_of
from fairline.core.units import System
from fairline.web.drawing.svg import drawing, path, tag, text

ROW, TOP = 78.0, 44.0
HEAD_W, HEAD_H = 92.0, 40.0


@dataclass
class _Spot:
    x: float
    row: int
    rows: int = 1


@dataclass
class _Layout:
    pipes: Piping
    columns: list[float]
    spots: dict[str, _Spot] = field(default_factory=dict)
    stubs: list[tuple[str, str, int]] = field(default_factory=list)
    row: int = 0

    def children(self, at: str) -> list[Stretch]:
        return [s for s in self.pipes.stretches if s.start == at]

    def place(self, at: str, column: int) -> None:
        """A thing and all that hangs on it, from the next free line down."""
        spot = self.spots[at] = _Spot(self.columns[min(column, len(self.columns) - 2)], self.row)
        if kind_of(at) == "head" and at != OUTDOOR:
            spot.x = self.columns[-1]
            self.row += 1
            return
        if kind_of(at) == "tee":
            self._tee(at, column)
        else:
            self._ports(at, column)
        self.row = max(self.row, spot.row + 1)
        spot.rows = self.row - spot.row

    def _tee(self, at: str, column: int) -> None:
        off = [s for s in self.children(at) if s.outlet != "on"]
        for child in off:
            self.place(child.id, column + 1)
        if not off:
            self.row += 1
        for child in [s for s in self.children(at) if s.outlet == "on"]:
            self.place(child.id, column if kind_of(child.id) == "tee" else column + 1)

    def _ports(self, at: str, column: int) -> None:
        names = self.pipes.outlets.get(at, ())
        for name in names:
            end = self.pipes.used.get(f"{at}-{name}")
            if end is not None and self.pipes.get(end):
                if end not in self.spots:
                    self.place(end, column + 1)
            else:
                self.stubs.append((at, name, self.row))
                self.row += 1
        for child in self.children(at):
            if child.id not in self.spots:
                self.place(child.id, column + 1)


def _columns(pipes: Piping, width: float) -> list[float]:
    """Where outdoor unit, boxes or tees, and heads stand."""
    middle = any(s.kind != "head" for s in pipes.stretches)
    left, right = (62.0, width - 66.0) if width > 500 else (34.0, width - 52.0)
    return (
        [left, left + (right - left) * (0.46 if width > 500 else 0.44), right]
        if middle
        else [left, right]
    )


def schematic(
    pipes: Piping,
    kept: Collection[str],
    names: dict[str, str],
    at: str,
    system: System,
    holds: Mapping[str, str] = MappingProxyType({}),
) -> list[Markup]:
    """The tree for a wide and a narrow screen. ``names``: what heads, boxes and ports are called.

    ``kept``: the ports that wait for a later head (``outdoor-D``). ``at`` is the page whose parts
    the runs link to. ``holds``: what is in the tubes of each run, in a word or two.
    """
    return [_drawn(pipes, kept, names, at, system, w, holds) for w in (780.0, 372.0)]


def _drawn(
    pipes: Piping,
    kept: Collection[str],
    names: dict[str, str],
    at: str,
    system: System,
    width: float,
    holds: Mapping[str, str],
) -> Markup:
    layout = _Layout(pipes, _columns(pipes, width))
    layout.place(OUTDOOR, 0)
    height = TOP + layout.row * ROW + 6
    parts: list[object] = []
    for stretch in pipes.stretches:
        if stretch.id in layout.spots and stretch.start in layout.spots:
            parts.append(_run(stretch, layout, at, system, width, holds.get(stretch.id, "")))
    for owner, name, row in layout.stubs:
        x, y = layout.spots[owner].x + _half(owner, width), _y(row)
        parts.append(tag("path", d=f"M{x:.1f} {y:.1f}h34", class_="stub"))
        parts.append(tag("path", d=f"M{x + 34:.1f} {y - 9:.1f}v18", class_="stub-cap"))
        parts.append(_port(x + 14, y, name))
        words = "kept for later, valve" if f"{owner}-{name}" in kept else "capped"
        parts.append(text(x + 44, y + 5, words, "run-small"))
    for name, spot in layout.spots.items():
        parts.append(_thing(name, spot, names, width))
    told = "; ".join(
        f"{s.start} to {s.id} {show(s.length_m, 'length', system).text if s.length_m else ''}"
        f"{', ' + holds[s.id] if holds.get(s.id) else ''}"
        for s in pipes.stretches
    )
    size = "drawing-wide" if width > 500 else "drawing-narrow"
    return drawing(
        width,
        height,
        f"The system: {told or 'nothing is connected yet'}",
        f"schematic {size}",
        *parts,
    )


def _y(row: float) -> float:
    return TOP + row * ROW + ROW * 0.42


def _half(name: str, width: float) -> float:
    if name == OUTDOOR:
        return 50.0 if width > 500 else 26.0
    return 0.0 if kind_of(name) == "tee" else (36.0 if width > 500 else 24.0)


def _sizes(stretch: Stretch) -> str:
    words = []
    for mm in (stretch.tube.liquid_mm, stretch.tube.gas_mm):
        tube = tube_at(mm) if mm is not None else None
        words.append(tube.label if tube else f"{mm:g} mm" if mm else "?")
    return " + ".join(words)


@dataclass(frozen=True)
class _RunLine:
    """Where a run is drawn: its corners, and the spot, end and room of its words."""

    corners: list[tuple[float, float]]
    first: tuple[float, float]
    x: float
    y: float
    anchor: str
    crowded: bool


def _run_line(stretch: Stretch, layout: _Layout, width: float) -> _RunLine:
    start, end = layout.spots[stretch.start], layout.spots[stretch.id]
    x1, x2, y = start.x + _half(stretch.start, width), end.x - _before(stretch, width), _y(end.row)
    tee = kind_of(stretch.start) == "tee"
    if not tee or end.row == start.row:
        crowded = x2 - x1 < 130
        aside = 14 if crowded and stretch.outlet and not tee else 0 if crowded else 10
        return _RunLine([(x1, y), (x2, y)], (x1, y), (x1 + x2) / 2 + aside, y, "middle", crowded)
    down = [(start.x, _y(start.row)), (start.x, y)]
    if x2 <= start.x:  # straight down from one tee to the next
        return _RunLine(down, (x1, y), start.x - 22, y + 6, "end", crowded=False)
    x = (start.x + x2) / 2 + 10
    return _RunLine([*down, (x2, y)], (x1, y), x, y, "middle", crowded=False)


def _before(stretch: Stretch, width: float) -> float:
    """How far before the middle of what it ends in a run ends."""
    if stretch.kind != "head":
        return _half(stretch.id, width)
    return HEAD_W / 2 if width > 500 else 40.0


def _length_words(stretch: Stretch, system: System, named: bool) -> str:
    length = show(stretch.length_m, "length", system).text if stretch.length_m else "no length"
    built = " built" if stretch.built_m is not None else ""
    tag_ = f"{stretch.tag.replace('tee', 'T')}  " if named else ""
    return f"{tag_}{length}{built}"


def _small_words(stretch: Stretch, line: _RunLine, system: System) -> str:
    """Lift and tubes under the line; where it is crowded they are on the run's own page."""
    lift = stretch.lift_m or 0.0
    if line.crowded:
        return ""
    if line.anchor != "middle" or abs(lift) <= 1e-3:
        return _sizes(stretch)
    raised = show(abs(lift), "length", system).text
    return f"{'↑' if lift > 0 else '↓'} {raised} · {_sizes(stretch)}"


def _run_port(stretch: Stretch, line: _RunLine) -> Markup | None:
    if kind_of(stretch.start) != "box" and stretch.start != OUTDOOR:
        return None
    x1, y = line.first
    return _port(x1 + 16, y, stretch.outlet)


def _run(
    stretch: Stretch, layout: _Layout, at: str, system: System, width: float, inside: str
) -> Markup:
    line = _run_line(stretch, layout, width)
    state = "" if stretch.length_m is not None else " open"
    words = _length_words(stretch, system, named=stretch.kind != "head" and width > 500)
    small = _small_words(stretch, line, system)
    x, y, anchor = line.x, line.y, line.anchor
    return tag(
        "a",
        tag("path", d=path(line.corners), class_=f"gas{state}"),
        tag("path", d=path(line.corners), class_=f"liquid{state}"),
        tag("path", d=path(line.corners), class_="touch"),
        _run_port(stretch, line),
        text(x, y - (20 if line.crowded else 12), words, f"run-length {anchor}"),
        text(x, y + 22, small, f"run-small {anchor}") if small else None,
        text(x, y + (38 if small else 22), inside, f"run-inside {anchor}") if inside else None,
        href=f"{at}?part=runs.{stretch.id}",
        class_="run",
        id=f"run-{stretch.id}-{'w' if width > 500 else 'n'}",
        data_mm=str(round((stretch.length_m or 0.0) * 1000)),
    )


def _port(x: float, y: float, name: str) -> Markup | None:
    if not name:
        return None
    return tag(
        "g",
        tag("circle", cx=x, cy=y, r=12.0, class_="port"),
        text(x, y + 5, name[:3], "port-text middle"),
    )


def _thing(name: str, spot: _Spot, names: dict[str, str], width: float) -> Markup:
    wide, y = width > 500, _y(spot.row)
    if name == OUTDOOR or kind_of(name) == "box":
        half, height = _half(name, width), (spot.rows - 1) * ROW + 56
        top = y - 28
        return tag(
            "g",
            tag(
                "rect", x=spot.x - half, y=top, width=2 * half, height=height, rx=6.0, class_="unit"
            ),
            tag("circle", cx=spot.x, cy=top + 28, r=18.0 if wide else 14.0, class_="fan")
            if name == OUTDOOR
            else None,
            text(spot.x, top - 8, names.get(name, name), "thing-name middle")
            if wide
            else text(max(spot.x - half, 2), top - 8, names.get(name, name), "thing-name"),
        )
    if kind_of(name) == "tee":
        return tag(
            "g",
            tag("circle", cx=spot.x, cy=y, r=15.0, class_="unit"),
            text(spot.x, y + 5, f"T{name[3:]}", "port-text middle"),
        )
    w = HEAD_W if wide else 80.0
    return tag(
        "g",
        tag(
            "rect",
            x=spot.x - w / 2,
            y=y - HEAD_H / 2,
            width=w,
            height=HEAD_H,
            rx=5.0,
            class_="unit head",
        ),
        text(spot.x - w / 2 + 18, y + 7, name, "head-letter middle"),
        text(spot.x + w / 2, y + 38, names.get(name, "")[: 20 if wide else 14], "run-small end"),
    )
