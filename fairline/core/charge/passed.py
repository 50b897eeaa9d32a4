"""What an override can pass over when valves are opened or power comes on: each thing by its name.

What can hurt somebody is not among it: a stop is passed over by nobody.
"""

from collections.abc import Iterable, Mapping
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
