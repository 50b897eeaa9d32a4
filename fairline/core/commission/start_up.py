"""Start-up: what is done before and while the first zone runs, and how it is left."""

from collections.abc import Iterable, Mapping
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call
from fairline.core.commission.records import MODE_WORDS, Mode
from fairline.core.entry import DateText, Entry, LongText, OneOf, TemperatureC, Text, YesNo
from fairline.core.practice import Rules

STARTS_S = 300.0  # an outdoor unit may take four to five minutes by itself: common practice
SILENT = "common practice, no source"
ITEMS: Mapping[str, str] = {  # what is looked at once, in words
    "batteries": "Batteries in the remote, its clock set",
    "paired": "The remote reaches the head, and the head answers",
    "filters": "Filters in, covers on",
    "remote_place": "The remote hangs where it shall feel the room",
    "modes_tried": "The modes that the sheet lists: tried, or left on purpose",
    "clear": "What was agreed to stay clear is clear, vanes set so",
}
PANEL = {
    "panel": "Cassette panel: marks to piping and drain, sponge at the outlet 5 to 8 mm, edge on "
    "the ceiling, plugs in, sponges off the fan, test cover back",
}


def items_of(
    cassettes: bool, modes: Iterable[str] = (), promised: Iterable[str] = ()
) -> Mapping[str, str]:
    """What is looked at once; of ceiling cassettes their panels too.

    ``modes``: those that the heads' sheets list beside cooling and heating. ``promised``: what
    Survey and Mount agreed of each head.

    >>> len(items_of(True)) - len(items_of(False))
    1
    >>> items_of(False, ["economy", "dry", "economy"])["modes_tried"]
    'Modes of the remote: economy, dry'
    """
    items = {**ITEMS, **PANEL} if cassettes else dict(ITEMS)
    if named := ", ".join(dict.fromkeys(modes)):
        items["modes_tried"] = f"Modes of the remote: {named}"
    if told := "; ".join(promised):
        items["clear"] = f"As agreed: {told}"
    return items


def special_modes(rules: Rules) -> list[str]:
    """The modes beside cooling and heating that the sheets of the heads list."""
    return list(dict.fromkeys(m for head in rules.heads.values() for m in head.modes))


def starts_within(rules: Rules) -> tuple[float, str]:
    """Within how many seconds the outdoor unit starts by itself, and who says so."""
    unit = rules.outdoor
    if unit is not None and unit.start_up_s is not None:
        return unit.start_up_s, unit.source("start_up_s")
    return STARTS_S, SILENT


class CommissionEntry(Entry):
    """What was looked at once, how the system was left, and a mode that has to wait.

    ``later_mode`` is run on ``later_on``, since the weather does not allow it now.
    """

    batteries: YesNo = None
    paired: YesNo = None
    filters: YesNo = None
    remote_place: YesNo = None
    modes_tried: OneOf[Literal["yes", "left", "no"]] = None
    modes_left: Text = ""
    clear: YesNo = None
    panel: YesNo = None
    left_mode: OneOf[Literal["cool", "heat", "dry", "auto", "off"]] = None
    left_set_c: TemperatureC = None
    later_mode: OneOf[Mode] = None
    later_on: DateText = ""
    later_by: Annotated[Text, Field(max_length=100)] = ""
    notes: LongText = ""

    @model_validator(mode="after")
    def _says_when(self) -> "CommissionEntry":
        if self.later_mode and not self.later_on:
            raise ValueError("later_on: say on which day that mode is run")
        return self


def start_checks(entry: CommissionEntry, items: Mapping[str, str]) -> list[Check]:
    """What was looked at once (``items_of``): what is open of it, or the first that is wrong."""
    wrong = [name for name in items if getattr(entry, name) == "no"]
    left = [name for name in items if getattr(entry, name) is None]
    if wrong:
        call = fault_call(f"Not so: {_sentence(items[wrong[0]])}", "Mend it.")
    elif left:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{len(items) - len(left)} of {len(items)} things of the start-up looked at.",
            do_next=f"{items[left[0]]}: look.",
        )
    elif entry.modes_tried == "left" and not entry.modes_left:
        call = Call(
            verdict=Verdict.WAIT,
            because="Modes of the remote were left untried; which is not said.",
            do_next="Say which modes were left, or try them.",
        )
    elif entry.left_mode is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="In which mode it was left is not said.",
            do_next="Leave it in a mode and at a set point that the owner knows, and say which.",
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because="Started up, and left as the owner knows it.")
    return [Check(id="start", label="Start-up", call=call)]


def _sentence(words: str) -> str:
    return f"{words[0].lower()}{words[1:]}."


def put_off(entry: CommissionEntry, mode: Mode) -> Call | None:
    """That a mode is run on another day; None where it is not put off."""
    if entry.later_mode != mode:
        return None
    by = f" by {entry.later_by}" if entry.later_by else ""
    return Call(
        verdict=Verdict.WATCH,
        because=f"{MODE_WORDS[mode]} is run on {entry.later_on}{by}: the weather does not allow it "
        "now.",
        do_next=f"Run it on {entry.later_on}, briefly if it must be.",
    )
