"""A procedure: what is done in a fixed order at one place, step by step, and what each step risks.

All lists stand in ``tables/procedures.json``; they are common practice without a published source.
Which list is asked, and which of its steps, goes by what is known of the place.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from fairline.core.call import Frozen, Verdict
from fairline.core.physics.tubing import table
from fairline.core.quantities import both

Facts = Mapping[str, str]
Figure = tuple[float, str] | str  # a value in SI with its kind of quantity; or words
When = dict[str, tuple[str, ...]]


class HandStep(Frozen):
    """One step: what hands do, and what leaving it out risks.

    ``{name}`` in ``words`` is a figure that is worked out for the place. ``hurts``: left out, it
    can hurt someone. ``unless`` is how it is said that it did not go as it should; ``wrong`` what
    that means. ``when``: the facts under which the step is asked; all of them, any of their values.
    """

    name: str
    words: str
    risk: str = ""
    hurts: bool = False
    unless: str = ""
    wrong: str = ""
    wrong_verdict: Verdict = Verdict.SHORT
    do_next: str = ""
    when: When = {}


class Procedure(Frozen):
    """A list of steps in order, of one stage; ``drawing`` names a drawing that shows it.

    One whose steps are the job's own (its joints, its tools) has none in the table.
    """

    name: str
    stage: str
    title: str
    when: When = {}
    drawing: str = ""
    steps: tuple[HandStep, ...] = ()


def _procedures() -> Mapping[str, Procedure]:
    return {row["name"]: Procedure.model_validate(row) for row in table("procedures")["procedures"]}


PROCEDURES = _procedures()


def meets(when: Mapping[str, tuple[str, ...]], facts: Facts) -> bool:
    """Whether what is known of a place is what a list or step is asked for.

    >>> meets({"wall": ("frame",)}, {"wall": "frame"}), meets({"wall": ("frame",)}, {})
    (True, False)
    """
    return all(facts.get(name, "") in values for name, values in when.items())


@dataclass(frozen=True)
class At:
    """Where a procedure is done: a zone, ``outdoor``, a run, or blank for the whole job.

    ``token`` says which machine or tube stands there, ``part`` on which part of the stage's page
    the list is.
    """

    place: str = ""
    token: str = ""
    part: str = ""


@dataclass(frozen=True)
class Asked:
    """A procedure as it is asked at one place; ``figures`` are worked out for it."""

    procedure: Procedure
    at: At = At()
    steps: tuple[HandStep, ...] = ()
    figures: Mapping[str, Figure] = field(default_factory=dict)

    @property
    def id(self) -> str:
        place = self.at.place
        return f"steps_{self.procedure.name}" + (f"_{place}" if place else "")

    @property
    def title(self) -> str:
        return f"{self.procedure.title}, {self.zone}" if self.zone else self.procedure.title

    @property
    def zone(self) -> str:
        """The head it is done at; blank where it is none."""
        return self.at.place if len(self.at.place) == 1 else ""


def asked(
    name: str,
    facts: Facts,
    at: At = At(),
    figures: Mapping[str, Figure] | None = None,
    steps: Sequence[HandStep] = (),
) -> list[Asked]:
    """A procedure at a place, with its steps as they are asked there; none where it is not asked.

    ``steps``: the job's own, of a procedure that has none in the table.
    """
    procedure = PROCEDURES[name]
    if not meets(procedure.when, facts):
        return []
    known = dict(figures or {})
    listed = tuple(
        step.model_copy(update={"words": with_figures(step.words, known)})
        for step in steps or procedure.steps
        if meets(step.when, facts)
    )
    return [Asked(procedure, at, listed, known)] if listed else []


def with_figures(words: str, figures: Mapping[str, Figure]) -> str:
    """Words with their figures in both unit systems; what is not worked out leaves its clause out.

    A clause with a figure stands in square brackets.

    >>> with_figures("Pilot from inside[, bit of at least {bit}]", {})
    'Pilot from inside'
    >>> with_figures("Pilot[, tipped {tilt}]", {"tilt": (2.0, "degrees")})
    'Pilot, tipped 2°'
    """
    said = ""
    rest = words
    while "[" in rest:
        before, _, after = rest.partition("[")
        clause, _, rest = after.partition("]")
        said += before + _filled(clause, figures)
    return said + rest


def plain(words: str) -> str:
    """Words of a step without the figures of any place, for a book.

    >>> plain("Pilot from inside[, tipped {tilt}], slowly")
    'Pilot from inside, slowly'
    """
    return with_figures(words, {})


def _filled(clause: str, figures: Mapping[str, Figure]) -> str:
    for name, figure in figures.items():
        if f"{{{name}}}" in clause:
            clause = clause.replace(f"{{{name}}}", _words(figure))
    return "" if "{" in clause else clause


def _words(figure: Figure) -> str:
    if isinstance(figure, str):
        return figure
    value, kind = figure
    if kind == "degrees":
        return f"{value:.1f}°".replace(".0°", "°")
    return f"{value:g}" if kind == "count" else both(value, kind)
