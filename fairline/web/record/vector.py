"""A drawing of the pages made fit for paper: looks written into it, in ink that prints black."""

from xml.etree import ElementTree

from markupsafe import Markup

SVG = "http://www.w3.org/2000/svg"
INK, GREY, PALE, SHADE = "#101714", "#5b6660", "#d5dcd7", "#eef2ee"
Look = dict[str, str]


def _line(width: float, colour: str = INK, dashes: str = "") -> Look:
    found = {"fill": "none", "stroke": colour, "stroke-width": f"{width:g}"}
    return found | ({"stroke-dasharray": dashes} if dashes else {})


def _area(fill: str, edge: str = "none") -> Look:
    return {"fill": fill, "stroke": edge, "stroke-width": "1.6"}


def _words(size: int, colour: str = INK) -> Look:
    return {"fill": colour, "stroke": "none", "font-size": str(size), "font-family": "body"}


LOOKS: dict[str, Look] = {  # by class, the later class of an element before the earlier
    "band": _area(SHADE),
    "known": _area(PALE),
    "gridline": _line(0.7, PALE),
    "tick": _line(1),
    "limit": _line(3, GREY),
    "hold": _line(1.4, GREY, "3 5"),
    "measured": _line(2.6),
    "fit": _line(2, GREY, "8 5"),
    "plateau": _line(1.4, GREY, "2 5"),
    "now": _area(INK),
    "read": _area(INK),
    "gas": _line(6),
    "liquid": _line(2),
    "stub": _line(5, PALE),
    "stub-cap": _line(4, GREY),
    "unit": _area("#ffffff", INK),
    "fan": _line(2),
    "port": _area(INK),
    "block": _area("#ffffff", INK),
    "ground": _line(1.6),
    "casing": _line(5, PALE),
    "wire": _line(2.4),
    "shell": _area("#ffffff", INK),
    "content": _area(PALE),
    "hose": _line(3, GREY),
    "open": {"stroke-dasharray": "3 7"},
    "half": {"stroke-dasharray": "3 7"},
    "landed": {},
    "tick-text": _words(15),
    "note": _words(15),
    "run-length": _words(20),
    "run-small": _words(14, GREY),
    "run-inside": _words(16),
    "head-letter": _words(20),
    "thing-name": _words(16),
    "port-text": _words(13, "#ffffff"),
    "terminal": _words(13),
    "title": _words(15),
    "cylinder-text": _words(15),
}
ANCHORS = {"middle": "middle", "end": "end"}
OUT = ("touch",)
BACKED = {"title"}  # words that lines may cross


def for_paper(drawn: Markup) -> bytes:
    """An SVG of our own pages as one that stands alone, its looks in attributes.

    Only what the drawings of the record are made of is known; a class without a look is drawn as a
    thin line, or as words of middle size.
    """
    root = ElementTree.fromstring(f'<svg xmlns="{SVG}"' + str(drawn).removeprefix("<svg"))
    ElementTree.register_namespace("", SVG)
    made = ElementTree.Element(f"{{{SVG}}}svg", {"viewBox": root.get("viewBox", "0 0 100 100")})
    _copy(root, made)
    return ElementTree.tostring(made)


def _copy(source: ElementTree.Element, target: ElementTree.Element) -> None:
    before = ""
    for child in source:
        name = child.tag.removeprefix(f"{{{SVG}}}")
        classes = child.get("class", "").split()
        if name == "title" or set(classes) & set(OUT):
            continue
        if name in ("a", "g"):
            group = ElementTree.SubElement(target, f"{{{SVG}}}g")
            if moved := child.get("transform"):
                group.set("transform", moved)
            _copy(child, group)
            continue
        looks = _attributes(child, name, classes)
        if name == "text" and set(classes) & BACKED:
            ElementTree.SubElement(target, f"{{{SVG}}}rect", _behind(child, looks))
        made = ElementTree.SubElement(target, child.tag, looks)
        if name == "text":
            made.text = "".join(child.itertext())
            if "port-text" in classes and before == "unit":
                made.set("fill", INK)
        before = classes[0] if classes else ""


def _behind(child: ElementTree.Element, looks: Look) -> Look:
    """White paper behind words that a line may cross; their width by the count of letters."""
    size = float(looks["font-size"])
    wide = 0.52 * size * len("".join(child.itertext()))
    x = float(child.get("x", "0"))
    left = {"middle": x - wide / 2, "end": x - wide}.get(looks.get("text-anchor", ""), x)
    top = float(child.get("y", "0")) - size * 0.85
    box = {"x": left, "y": top, "width": wide, "height": size * 1.1}
    return _area("#ffffff") | {k: f"{v:.1f}" for k, v in box.items()}


def _attributes(child: ElementTree.Element, name: str, classes: list[str]) -> Look:
    kept = {k: v for k, v in child.attrib.items() if k not in ("class", "style", "href")}
    look = _words(15) if name == "text" else _line(1.2)
    for one in classes:
        look = look | LOOKS.get(one, {})
        if name == "text" and one in ANCHORS:
            look["text-anchor"] = ANCHORS[one]
    if name == "text" and "terminal" in classes:
        look["text-anchor"] = "middle"
    return look | kept
