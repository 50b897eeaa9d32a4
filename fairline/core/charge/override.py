"""What an override can pass over when valves are opened or power comes on: each thing by its name.

What can hurt somebody is not among it: a stop is passed over by nobody.
"""

from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import dataclass

NAMES: Mapping[str, str] = {  # as a gate that does not hold
    "flare": "making of the joints",
    "pressure-test": "pressure test",
    "evacuate": "decay",
    "grams": "charge",
}
THINGS: Mapping[str, str] = {  # as a thing that is passed over
    "flare": "a joint that is not to torque",
    "pressure-test": "no nitrogen hold",
    "evacuate": "no decay that holds",
    "grams": "the grams not in",
    "full-open": "a half-open valve",
    "caps": "a missing cap",
    "hiss": "a missing hiss",
    "wire": "the wiring",
    "valves": "valves that are shut",
    "looked": "a joint by feel that nobody looked at",
}
GATES = frozenset(NAMES)


@dataclass(frozen=True)
class Lacking:
    """One thing that is not as it should be before an act: its name, and why, in words.

    ``hurts``: somebody can be hurt by it, so that nobody can pass it over.
    """

    name: str
    because: str
    hurts: bool = False

    @property
    def thing(self) -> str:
        return THINGS[self.name]


def words_of(passed: Iterable[str]) -> str:
    """What was passed over, in words.

    >>> words_of(["evacuate", "caps"])
    'no decay that holds and a missing cap'
    """
    found = [THINGS.get(name, name) for name in passed]
    return ", ".join(found[:-1]) + (" and " if len(found) > 1 else "") + "".join(found[-1:])


def not_passed(
    lacks: Sequence[Lacking], overridden: bool, named: Container[str], asked: str = ""
) -> tuple[str, str] | None:
    """What keeps an act from being done over what is lacking: the field, and why; None: nothing.

    What can hurt is passed over by nobody; an override names each thing that it passes over.
    ``asked``: how a name is asked for; blank: with what is lacking first.

    >>> not_passed([Lacking("caps", "The caps are off.")], True, ())
    ('passed', 'tick what is passed over: a missing cap')
    """
    hurts = next((x for x in lacks if x.hurts), None)
    if hurts is not None:
        return "override_by", f"nobody can pass this over: {hurts.because}"
    if lacks and not overridden:
        return (
            "override_by",
            asked or f"{lacks[0].because} A name and a reason are needed to go on.",
        )
    left = [x.thing for x in lacks if x.name not in named]
    return ("passed", f"tick what is passed over: {', '.join(left)}") if left else None
