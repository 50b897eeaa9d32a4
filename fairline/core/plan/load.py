"""What goes onto the van for several jobs at once: equal things summed, each with its jobs."""

from collections.abc import Sequence
from dataclasses import dataclass

from fairline.core.calc.materials import GROUPS, Group, Line, Unit


@dataclass(frozen=True)
class ToLoad:
    """One thing for the van, in m or pieces, and the jobs that it is for."""

    group: Group
    item: str
    size: str
    unit: Unit
    quantity: float
    jobs: tuple[str, ...]


def to_load(lists: Sequence[tuple[str, Sequence[Line]]]) -> list[ToLoad]:
    """The materials of several jobs, each named beside its list, as one list.

    Equal items of equal size are summed; the order is that in which a van is loaded.
    """
    found: dict[tuple[Group, str, str, Unit], ToLoad] = {}
    for job, lines in lists:
        for line in lines:
            key = (line.group, line.item, line.size, line.unit)
            before = found.get(key)
            jobs = before.jobs if before else ()
            found[key] = ToLoad(
                *key,
                quantity=line.quantity + (before.quantity if before else 0.0),
                jobs=jobs if job in jobs else (*jobs, job),
            )
    order = list(GROUPS)
    return sorted(found.values(), key=lambda one: order.index(one.group))


def tools_to_load(lists: Sequence[tuple[str, Sequence[str]]]) -> dict[str, tuple[str, ...]]:
    """The tools of several jobs, each once, with the jobs that ask for it.

    >>> tools_to_load([("A", ["scale", "pump"]), ("B", ["pump"])])
    {'scale': ('A',), 'pump': ('A', 'B')}
    """
    found: dict[str, tuple[str, ...]] = {}
    for job, tools in lists:
        for words in tools:
            found[words] = tuple(dict.fromkeys((*found.get(words, ()), job)))
    return found
