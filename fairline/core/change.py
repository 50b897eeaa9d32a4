"""Changes of a document: what one edit changed, put onto what stands, or taken back from it.

A document is what an entry looks like as JSON. An edit is a list of steps, each a place in it
with its value before and after. Because a step knows both, it can be put onto a document that
another person changed meanwhile without undoing what that person did, and taken back the same way.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

Path = tuple[str | int, ...]


class _Absent:
    """No value at a place."""

    def __repr__(self) -> str:
        return "GONE"


ABSENT = _Absent()


@dataclass(frozen=True)
class Step:
    """One place of a document, its value before and after; ``GONE`` where there is none."""

    path: Path
    before: Any
    after: Any

    @property
    def back(self) -> "Step":
        return Step(self.path, self.after, self.before)

    @property
    def adds_row(self) -> bool:
        """Whether it adds a row to the end of a list."""
        return isinstance(self.path[-1], int) and self.before is ABSENT if self.path else False

    @property
    def field(self) -> str:
        """The place as a form names it: ``runs.A.legs.0.length_m``."""
        return ".".join(str(part) for part in self.path)

    def stored(self) -> dict[str, Any]:
        """As JSON: a value that is gone is left out."""
        ends = {"before": self.before, "after": self.after}
        return {"path": list(self.path)} | {k: v for k, v in ends.items() if v is not ABSENT}

    @classmethod
    def read(cls, kept: dict[str, Any]) -> "Step":
        return cls(tuple(kept["path"]), kept.get("before", ABSENT), kept.get("after", ABSENT))


def difference(before: Any, after: Any, path: Path = ()) -> list[Step]:
    """The steps from one document to another, in order of place.

    A list changes row by row, and grows by a row a step; one that is changed otherwise (a row
    taken out, rows put between) is one step.

    >>> difference({"a": 1, "rows": [{"x": 1}]}, {"rows": [{"x": 2}]})
    [Step(path=('a',), before=1, after=GONE), Step(path=('rows', 0, 'x'), before=1, after=2)]
    """
    if before == after and type(before) is type(after):
        return []
    if isinstance(before, dict) and isinstance(after, dict):
        found: list[Step] = []
        for key in sorted(before.keys() | after.keys()):
            found += difference(before.get(key, ABSENT), after.get(key, ABSENT), (*path, key))
        return found
    if not (isinstance(before, list) and isinstance(after, list)):
        return [Step(path, before, after)]
    count, rows = len(before), all(isinstance(row, dict) for row in (*before, *after))
    if rows and count == len(after):
        pairs = enumerate(zip(before, after, strict=True))
        return [step for i, (b, a) in pairs for step in difference(b, a, (*path, i))]
    if rows and count and after[:count] == before:
        return [Step((*path, i), ABSENT, after[i]) for i in range(count, len(after))]
    return [Step(path, before, after)]


def merge(standing: Any, steps: Iterable[Step], base: Any) -> tuple[Any, list[Step]]:
    """A document with an edit put onto it, and the steps that found another's change there.

    ``base``: what the edit was made from. A step is left out, and told, where the value that
    stands is neither the one it began from nor the one it leads to; so is one within a row of a
    list that may be another row by now. What was added to the end of a list by both is kept.
    """
    made, left = standing, []
    for step in steps:
        here = value_at(made, step.path)
        if here == step.after:
            continue
        tail = _added_by_both(step, here)
        if tail is not None:
            made = put_value(made, step.path, tail)
        elif step.adds_row:
            rows = value_at(made, step.path[:-1])
            if isinstance(rows, list):
                made = put_value(made, step.path[:-1], [*rows, step.after])
            else:
                left.append(step)
        elif here == step.before and _same_rows(step.path, base, standing):
            made = put_value(made, step.path, step.after)
        else:
            left.append(step)
    return made, left


def _added_by_both(step: Step, here: Any) -> list[Any] | None:
    """A list that both began."""
    if step.before is not ABSENT or not (isinstance(step.after, list) and isinstance(here, list)):
        return None
    return [*here, *step.after]


def _same_rows(path: Path, base: Any, standing: Any) -> bool:
    """Whether the rows a path goes through are still the rows that they were."""
    for at, part in enumerate(path):
        if not isinstance(part, int):
            continue
        was, now = value_at(base, path[:at]), value_at(standing, path[:at])
        if not (isinstance(was, list) and isinstance(now, list)):
            return False
        if part >= len(was) or part >= len(now):
            return False
        if was[part] == now[part]:
            continue
        others = [i for i in range(max(len(was), len(now))) if i != part]
        if len(was) != len(now) or any(was[i] != now[i] for i in others):
            return False
    return True


def value_at(document: Any, path: Path) -> Any:
    """The value at a place, or ``GONE``."""
    for part in path:
        if isinstance(document, list):
            inside = isinstance(part, int) and part < len(document)
        else:
            inside = isinstance(document, dict) and part in document
        if not inside:
            return ABSENT
        document = document[part]
    return document


def put_value(document: Any, path: Path, value: Any) -> Any:
    """A copy of the document with the value at a place; with ``ABSENT``, without it.

    Where the way to the place is gone it is made anew; a dictionary that is left empty goes.
    """
    if not path:
        return value
    first, rest = path[0], path[1:]
    if isinstance(document, list):
        rows = [
            put_value(row, rest, value) if i == first else row for i, row in enumerate(document)
        ]
        return [row for row in rows if row is not ABSENT]
    whole = dict(document) if isinstance(document, dict) else {}
    inside = put_value(whole.get(str(first), {} if rest else ABSENT), rest, value)
    if inside is ABSENT or (rest and inside == {} and value is ABSENT):
        whole.pop(str(first), None)
    else:
        whole[str(first)] = inside
    return whole


def in_words(steps: Sequence[Step]) -> str:
    """What an edit was about, in a few words: ``runs A, legs; bend radius``."""
    found: list[str] = []
    for step in steps:
        words = " ".join(str(p + 1 if isinstance(p, int) else p) for p in step.path)
        for unit in ("_m2", "_m3_s", "_kg_m", "_kg", "_m", "_pa", "_c", "_w", "_s", "_nm"):
            words = words.removesuffix(unit)
        words = words.replace("_", " ")
        if words not in found:
            found.append(words)
    return "; ".join(found[:3]) + (" and more" if len(found) > 3 else "")
