"""Places that a head could take, side by side: the owner chooses, choice and reason are kept.

An outside wall near the unit comes first, then a drain that falls by itself, then the shorter line:
common practice, no source. What each costs in refrigerant is worked out from the sheet's own rate.
"""

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from fairline.core.call import Call, Check, Frozen, Verdict
from fairline.core.entry import DistanceM, Entry, OneOf, Text, YesNo
from fairline.core.practice import Rules
from fairline.core.sheet.head import FORMS, Form

MOST = 3


class PlaceOption(Entry):
    """One place: the head's form there, its height, free room in front, its line, its drain."""

    name: Text = ""
    form: OneOf[Form] = None
    height_m: DistanceM = None
    front_m: DistanceM = None
    line_m: DistanceM = None
    outside_wall: YesNo = None
    pumped: YesNo = None
    price: Text = ""
    chosen: YesNo = None


PlaceOptions = Annotated[tuple[PlaceOption, ...], Field(max_length=MOST)]


class Weighed(Frozen):
    """An option with what it comes to: how far its air goes, what its line takes more in charge.

    ``air_m``: the throw or the free room, whichever ends first; ``more_kg``: grams beyond what the
    unit was filled for; both None where the sheet does not say.
    """

    option: PlaceOption
    rank: int
    air_m: float | None
    more_kg: float | None

    @property
    def words(self) -> str:
        form = FORMS[self.option.form] if self.option.form else ""
        return ", ".join(x for x in (self.option.name or "a place", form.lower()) if x)


def weighed(options: Sequence[PlaceOption], rules: Rules) -> list[Weighed]:
    """The options in the order in which they are offered.

    >>> near = PlaceOption(name="by the window", outside_wall="yes", line_m=4.0)
    >>> far = PlaceOption(name="inner wall", outside_wall="no", line_m=3.0)
    >>> [w.option.name for w in weighed([far, near], Rules())]
    ['by the window', 'inner wall']
    """
    throw = rules.value("throw")
    ranked = sorted(options, key=_rank)
    return [
        Weighed(option=o, rank=n, air_m=_air_m(o, throw), more_kg=_more_kg(o, rules))
        for n, o in enumerate(ranked, 1)
    ]


def _rank(option: PlaceOption) -> tuple[bool, bool, float]:
    line = option.line_m if option.line_m is not None else float("inf")
    return option.outside_wall != "yes", option.pumped == "yes", line


def _air_m(option: PlaceOption, throw_m: float | None) -> float | None:
    known = [m for m in (option.front_m, throw_m) if m is not None]
    return min(known) if known else None


def _more_kg(option: PlaceOption, rules: Rules) -> float | None:
    """Beyond the covered length, by the rate of the sheet's first row."""
    unit = rules.outdoor
    if unit is None or option.line_m is None or unit.included_length_m is None or not unit.rates:
        return None
    rate = unit.rates[0].kg_per_m
    return None if rate is None else max(0.0, option.line_m - unit.included_length_m) * rate


def option_checks(zone: str, options: Sequence[PlaceOption], reason: str) -> list[Check]:
    """Whether the owner has chosen among several places, and why is kept."""
    if len(options) < 2:
        return []
    chosen = [o for o in options if o.chosen == "yes"]
    if len(chosen) != 1:
        said = "none is chosen" if not chosen else "more than one is chosen"
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{zone}: {len(options)} places side by side, {said}.",
            do_next="Show them to the owner, and mark the one that is taken.",
        )
    elif not reason:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{zone}: {chosen[0].name or 'a place'} is taken; why is not said.",
            do_next="Write down the owner's reason.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{zone}: {chosen[0].name or 'a place'} of {len(options)} places: {reason}",
        )
    return [Check(id=f"option_{zone}", label=f"{zone}, place chosen", call=call)]
