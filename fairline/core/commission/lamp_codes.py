"""Lamps and display codes that somebody saw: what the sheet says of them, until they are gone."""

import re
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call
from fairline.core.entry import Record, Text
from fairline.core.parts import OUTDOOR
from fairline.core.practice import Rules
from fairline.core.sheet.part import LampCode


class CodeSeen(Record):
    """A code that a unit shows, or that it is gone (``gone``). ``unit``: outdoor, or a zone."""

    struck = "a code that a unit showed"

    kind: Literal["code-seen"] = "code-seen"
    unit: Annotated[Text, Field(min_length=1)]
    code: Annotated[Text, Field(min_length=1)]
    gone: bool = False


def codes_of(rules: Rules, unit: str) -> tuple[LampCode, ...]:
    """The codes that the sheet of a unit lists."""
    sheet = rules.outdoor if unit == OUTDOOR else rules.heads.get(unit)
    return sheet.lamp_codes if sheet is not None else ()


def showing(records: Sequence[CodeSeen]) -> list[CodeSeen]:
    """The codes that are shown still: the newest record of each unit and code says so."""
    last = {(r.unit, r.code.lower()): r for r in sorted(records, key=lambda r: r.at)}
    return [r for r in last.values() if not r.gone]


def check_id(seen: CodeSeen) -> str:
    """The id of the check of a code, whatever the code is called."""
    return f"code_{seen.unit}_{re.sub(r'[^A-Za-z0-9]+', '-', seen.code)}"


def code_checks(records: Sequence[CodeSeen], rules: Rules) -> list[Check]:
    """One check of each code that is shown: its meaning by the sheet, or that no sheet has it."""
    return [
        Check(
            id=check_id(seen),
            label=f"Code {seen.code}",
            call=_call(seen, codes_of(rules, seen.unit)),
        )
        for seen in showing(records)
    ]


def _call(seen: CodeSeen, listed: Sequence[LampCode]) -> Call:
    who = "The outdoor unit" if seen.unit == OUTDOOR else f"Head {seen.unit}"
    row = next((c for c in listed if c.code.lower() == seen.code.lower()), None)
    if row is None:
        return Call(
            verdict=Verdict.UNKNOWN,
            because=f"{who} shows {seen.code}; its sheet lists no such code.",
            do_next="Find the code in the manual and enter it on the sheet.",
        )
    page = f" ({row.page})" if row.page else ""
    do_next = row.do_next or "Mend what it names"
    return fault_call(
        f"{who} shows {row.code}: {row.means}{page}.",
        f"{do_next.rstrip('.')}. Then record that the code is gone.",
    )
