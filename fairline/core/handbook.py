"""The handbook: what each stage asks and why, its arithmetic worked through, schools and limits.

Its texts stand in ``tables/handbook.json`` and ``tables/words.csv``; all else is the program's own:
schools, limits, and examples that the computations themselves work out.
"""

import csv
from functools import cache
from importlib.resources import files
from json import dumps, loads
from typing import Any

from fairline.core.calc.door import CALCULATIONS
from fairline.core.call import Call, Frozen, Step
from fairline.core.limit_list import LIMITS, LimitDef
from fairline.core.procedures.procedure import PROCEDURES, Procedure
from fairline.core.schools import TOPICS, Topic
from fairline.core.stages import TITLES


class Example(Frozen):
    """A computation worked through: what was asked, in words, and every step of the answer."""

    name: str
    about: str
    says: str
    call: Call
    steps: tuple[Step, ...]


class Walk(Frozen):
    """A kind of system walked from the unit to its last head: station, what it is, its stage."""

    name: str
    title: str
    says: str
    stations: tuple[tuple[str, str, str], ...]


class Chapter(Frozen):
    """What the handbook has on one stage."""

    stage: str
    title: str
    purpose: str
    asks: tuple[tuple[str, str], ...]
    examples: tuple[Example, ...]
    topics: tuple[Topic, ...]
    limits: tuple[LimitDef, ...]
    words: tuple[tuple[str, str], ...]
    cautions: tuple[str, ...]
    procedures: tuple[Procedure, ...] = ()

    @property
    def text(self) -> str:
        """All that can be looked for in it, in small letters."""
        said = [self.title, self.purpose, *(t for ask in self.asks for t in ask)]
        said += [t for word in self.words for t in word]
        said += [f"{e.about} {e.says}" for e in self.examples]
        said += [f"{t.label} {t.reason}" for t in self.topics]
        said += [f"{s.label} {s.does} {s.right_when}" for t in self.topics for s in t.schools]
        said += [f"{p.title} {s.words} {s.risk}" for p in self.procedures for s in p.steps]
        said += [*(d.label for d in self.limits), *self.cautions]
        return " ".join(said).lower()


def _table(name: str) -> str:
    return (files("fairline.core") / "tables" / name).read_text("utf-8")


@cache
def words() -> dict[str, str]:
    """The words of the trade, each with what it means here."""
    return {row["word"]: row["means"] for row in csv.DictReader(_table("words.csv").splitlines())}


@cache
def _texts() -> dict[str, Any]:
    found: dict[str, Any] = loads(_table("handbook.json"))
    return found


def purpose(stage: str) -> str:
    """What a stage is for and what comes out of it, in one line.

    >>> purpose("flare").partition(",")[0]
    'Tube and wrench say what to set for every joint'
    """
    return str(_texts()[stage]["purpose"])


@cache
def words_of(stage: str) -> tuple[tuple[str, str], ...]:
    """The words that a stage's page explains."""
    return tuple((w, words()[w]) for w in _texts()[stage]["words"])


def cautions() -> dict[str, str]:
    """Every caution by stage and step of harm: ``mount.wall``."""
    return {
        f"{stage}.{step}": said
        for stage, told in _texts().items()
        for step, said in told["cautions"].items()
    }


@cache
def chapters() -> dict[str, Chapter]:
    """Every stage's chapter, in the order of work; the examples are worked out when first read."""
    return {stage: _chapter(stage, title) for stage, title in TITLES.items()}


def _chapter(stage: str, title: str) -> Chapter:
    told = _texts()[stage]
    topics = tuple(t for t in TOPICS.values() if t.stage == stage)
    named = {name for t in topics for s in t.schools for name in s.values}
    return Chapter(
        stage=stage,
        title=title,
        purpose=told["purpose"],
        asks=tuple((what, why) for what, why in told["asks"]),
        examples=tuple(_example(e) for e in told["examples"]),
        topics=topics,
        limits=tuple(d for name, d in LIMITS.items() if name in named),
        words=words_of(stage),
        cautions=tuple(told["cautions"].values()),
        procedures=tuple(p for p in PROCEDURES.values() if p.stage == stage and p.steps),
    )


def _example(told: dict[str, Any]) -> Example:
    calculation = CALCULATIONS[told["name"]]
    answer = calculation.run(dumps(told["request"]))
    about = (calculation.function.__doc__ or "").partition("\n\n")[0]
    return Example(
        name=told["name"],
        about=" ".join(about.split()),
        says=told["says"],
        call=answer.call,
        steps=tuple(answer.working),
    )


@cache
def walks() -> dict[str, Walk]:
    """Every kind of system by name, walked along its line.

    >>> [name for name in walks()]
    ['single', 'multi', 'branch-box', 'trunk']
    """
    rows = loads(_table("walks.json"))["walks"]
    return {row["name"]: Walk.model_validate(row) for row in rows}


def found(asked: str) -> list[Chapter]:
    """The chapters in which every word that is asked for stands.

    >>> [c.stage for c in found("crowfoot")]
    ['flare']
    """
    wanted = asked.lower().split()
    return [c for c in chapters().values() if all(word in c.text for word in wanted)]
