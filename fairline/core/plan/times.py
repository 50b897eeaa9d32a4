"""How long each kind of task takes: common practice, and what the house has set instead."""

from collections.abc import Mapping
from functools import cache
from typing import Annotated, Literal

from pydantic import Field, field_validator

from fairline.core.call import Frozen
from fairline.core.entry import Entry
from fairline.core.physics.tubing import table
from fairline.core.plan.crew import Skill

LONGEST_S = 30 * 86_400.0


class TaskTime(Frozen):
    """A kind of task: ``each_s`` for each of what it is counted by, ``crew`` people on it.

    ``skill``: what one of them must be able to do.
    """

    name: str
    words: str
    each_s: float
    crew: int
    skill: Skill | Literal[""] = ""


@cache
def task_times() -> Mapping[str, TaskTime]:
    """Every kind of task by its name, in the order of the work.

    >>> task_times()["joint"].each_s
    480.0
    """
    found = (TaskTime.model_validate(row) for row in table("task_times")["times"])
    return {one.name: one for one in found}


class HouseTimes(Entry):
    """What the house has set, in s by the task's name.

    ``learned``: the medians of its own finished jobs, and ``jobs`` of how many (``plan/took``);
    neither is kept, they are worked out anew.
    """

    times: dict[str, float] = {}
    learned: Annotated[dict[str, float], Field(exclude=True)] = {}
    jobs: Annotated[dict[str, int], Field(exclude=True)] = {}

    @field_validator("times")
    @classmethod
    def _known(cls, value: dict[str, float]) -> dict[str, float]:
        for name, seconds in value.items():
            if name not in task_times():
                raise ValueError(f"no task is called {name}")
            if not 0 <= seconds <= LONGEST_S:
                raise ValueError(f"{task_times()[name].words}: between nothing and a month")
        return value

    def each_s(self, name: str) -> float:
        """How long one of it takes, in s."""
        return self.times.get(name, self.usual_s(name))

    def usual_s(self, name: str) -> float:
        """How long one takes where the house has set nothing: its own median, or what is usual."""
        return self.learned.get(name, task_times()[name].each_s)
