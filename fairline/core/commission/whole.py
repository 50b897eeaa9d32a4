"""All zones on: what the system draws, and what was seen at it."""

from collections.abc import Mapping, Sequence
from types import MappingProxyType

from fairline.core.call import Check
from fairline.core.check import fault_call
from fairline.core.commission.power_drawn import current_check, watts_check
from fairline.core.commission.records import WholeSystem
from fairline.core.practice import Rules

WRONG: Mapping[str, str] = MappingProxyType(
    {
        "addresses": "a head or box does not answer on its address",
        "quiet": "it is loud, or shakes",
        "sweat": "bare tube sweats",
        "defrost": "the defrost water does not leave",
    }
)
WRONG_IF: Mapping[str, str] = MappingProxyType(
    {"addresses": "no", "quiet": "no", "sweat": "yes", "defrost": "no"}
)


def whole_checks(whole: Sequence[WholeSystem], rules: Rules) -> list[Check]:
    """The newest look at all zones on; what was seen wrong at it."""
    if not whole:
        return []
    last = whole[-1]
    made = (
        current_check(last.mode, last, rules, None, None),
        watts_check(last.mode, last, rules),
    )
    found = [
        c.model_copy(update={"id": f"whole_{c.id}", "label": f"All zones, {c.label.lower()}"})
        for c in made
        if c is not None
    ]
    wrong = [words for name, words in WRONG.items() if getattr(last, name) == WRONG_IF[name]]
    if wrong:
        call = fault_call(f"All zones on: {wrong[0]}.", "Mend it, then look again.")
        found.append(Check(id="whole", label="All zones on", call=call))
    return found
