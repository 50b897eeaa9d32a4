"""What was in the pipes, told as a story: each act, and what the lines held since."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from fairline.core.check import capitalized
from fairline.core.contents.act import Act, Kind
from fairline.core.contents.state import ActOutcome, Contents
from fairline.core.quantities import both

ACT_WORDS: dict[Kind, str] = {
    "joint": "a joint",
    "look": "a look for leaks",
    "machine": "a machine or tube changed",
    "nitrogen": "nitrogen let in",
    "bled": "nitrogen bled",
    "ports": "ports said",
    "pump": "the pump on",
    "decay": "the valve shut, the decay begun",
    "seen": "the pump seen off",
    "parted": "ports shut off",
    "sweep": "swept with nitrogen",
    "exposure": "the ends of the lines",
    "pump-by-name": "the pump let run by name",
    "weighed": "refrigerant weighed",
    "released": "the valves opened",
    "shut": "the valves shut",
    "pumped-down": "pumped down into the unit",
}
QUIET = ("look", "pump-by-name")  # they change nothing by themselves


@dataclass(frozen=True)
class Line:
    """One line of the story: an act, what the lines held since, and what was wrong with it."""

    at: datetime
    words: str
    by: str
    wrong: str = ""
    standing: bool = False


def story(contents: Contents) -> Iterator[Line]:
    """The acts that changed what is in the pipes, and all that were out of order, as they came.

    Joints that are made one after the other on open lines are one line.
    """
    made: list[ActOutcome] = []
    for told in contents.story:
        if _plain_joint(told):
            made.append(told)
            continue
        yield from _joints(made, contents.many)
        made = []
        if told.findings or (told.act.kind not in QUIET and told.after):
            yield _line(told, contents.many)
    yield from _joints(made, contents.many)


def _plain_joint(told: ActOutcome) -> bool:
    return told.act.kind == "joint" and not told.findings and "opened" not in told.act.said


def _joints(made: list[ActOutcome], many: bool) -> Iterator[Line]:
    if not made:
        return
    last = made[-1]
    words = f"{len(made)} joint{'s' if len(made) > 1 else ''} made or tightened"
    yield Line(last.act.at, f"{words}: {_held(last, many)}", last.act.by)


def _line(told: ActOutcome, many: bool) -> Line:
    act = told.act
    wrong = "; ".join(dict.fromkeys(f"{f.verdict.value}: {f.because}" for f in told.findings))
    standing = any(f.standing for f in told.findings)
    words = _act_words(act)
    return Line(act.at, f"{capitalized(words)}: {_held(told, many)}", act.by, wrong, standing)


def _act_words(act: Act) -> str:
    if act.kind == "weighed":
        out = "all recovered" if "emptied" in act.said else "taken out"
        return f"refrigerant {out if 'out' in act.said else 'weighed in'}"
    if act.kind == "exposure":
        return f"ends {next(iter(sorted(act.said - {'rain'})), 'said')}"
    if act.kind == "nitrogen" and act.gauge_pa is not None:
        return f"nitrogen to {both(act.gauge_pa, 'gauge')}"
    if act.kind == "joint":
        return f"a joint {'opened' if 'opened' in act.said else 'made'}"
    return ACT_WORDS[act.kind]


def _held(told: ActOutcome, many: bool) -> str:
    """What the circuits held after an act, those alike together."""
    grouped: dict[str, list[str]] = {}
    for circuit, part in told.after.items():
        grouped.setdefault(part.words, []).append(circuit)
    if not grouped:
        return "nothing changed"
    if not many:
        return "; ".join(grouped)
    return "; ".join(f"{', '.join(names)} {words}" for words, names in grouped.items())
