"""Where practitioners disagree: every topic with its schools, and the one we start with.

All are common practice without a published source unless the text names one.
"""

from importlib.resources import files
from json import loads

from fairline.core.call import Frozen
from fairline.core.limit_list import LIMITS


class School(Frozen):
    """One way of doing a thing: what it does, when it is right, what it costs."""

    name: str
    label: str
    does: str
    right_when: str
    costs: str
    values: dict[str, float] = {}


class Topic(Frozen):
    """A question practitioners answer differently; ``default`` is ours, with its reason."""

    name: str
    label: str
    stage: str
    default: str
    reason: str
    schools: tuple[School, ...]

    def school(self, name: str) -> School:
        return next(s for s in self.schools if s.name == name)


def _topics() -> tuple[Topic, ...]:
    """The topics of ``tables/schools.json``, where limits are typed as people do."""
    rows = loads((files("fairline.core") / "tables" / "schools.json").read_text("utf-8"))["topics"]
    for row in rows:
        for school in row["schools"]:
            said = school.get("values", {})
            school["values"] = {name: LIMITS[name].read(text) for name, text in said.items()}
    return tuple(Topic.model_validate(row) for row in rows)


_LIST = _topics()
TOPICS: dict[str, Topic] = {t.name: t for t in _LIST}
TOPICS_ON: dict[str, tuple[str, ...]] = {  # the topics whose schools say something of a limit
    name: tuple(t.name for t in _LIST if any(name in s.values for s in t.schools))
    for name in {n for t in _LIST for s in t.schools for n in s.values}
}
