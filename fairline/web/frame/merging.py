"""What a posted form comes to: its order done, put together with what another saved meanwhile."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError
from starlette.datastructures import FormData

from fairline.core.alike import ALIKE, like
from fairline.core.change import Step, difference, merge, put_value
from fairline.core.entry import Entry
from fairline.core.head_removal import letters_named
from fairline.core.route.edit import EditError
from fairline.core.stages import ENTRIES
from fairline.core.units import System
from fairline.store import entries, jobs
from fairline.store.document import dump
from fairline.web.frame.forms import Form, flat, form_fields, read, understood
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.rows import rows_changed, with_the_rest

Edit = Callable[[Any, FormData, JudgedJob, System], Any]
EDITS: dict[str, Edit] = {}


def stage_edit(stage: str) -> Callable[[Edit], Edit]:
    """Names the function that does a stage's own orders (``_edit``) on its entry.

    It raises EditError where an order cannot be done. Such a stage's forms hold a part of its
    fields; what they do not name stays as it is kept.
    """

    def register(edit: Edit) -> Edit:
        EDITS[stage] = edit
        return edit

    return register


Keeper = Callable[[Any, Any, JudgedJob], Any]
KEEPERS: dict[str, Keeper] = {}


def stage_keeps(stage: str) -> Callable[[Keeper], Keeper]:
    """Names the function that adds to a stage's entry what it keeps of the job as it is."""

    def register(keeper: Keeper) -> Keeper:
        KEEPERS[stage] = keeper
        return keeper

    return register


def with_kept(stage: str, entry: Entry, judged: JudgedJob) -> Entry:
    """An entry with what its stage keeps of the job as it is."""
    if stage not in KEEPERS:
        return entry
    kept: Entry = KEEPERS[stage](entry, entry_of(judged, stage), judged)
    return kept


IN_PARTS = {
    "survey",
    "wire",
}  # stages whose page shows one part of the entry, without orders of their own


def in_parts(stage: str) -> bool:
    """Whether a form of a stage leaves what it does not show as it is kept."""
    return stage in EDITS or stage in IN_PARTS


def entry_of(judged: JudgedJob, stage: str) -> Entry:
    entry: Entry = getattr(judged.job, jobs.field_name(stage))
    return entry


@dataclass(frozen=True)
class Clash:
    """A field that two people changed: what the other's is now, to choose from."""

    field: str
    words: str

    @classmethod
    def of(cls, step: Step, by: str, shown: dict[str, Any]) -> "Clash":
        who, theirs = by or "Somebody else", shown.get(step.field)
        if isinstance(theirs, str | float | int):
            said = f"{who} put {theirs} here" if theirs != "" else f"{who} emptied this"
        else:
            said = f"{who} changed this too"
        return cls(step.field, f"{said} while you had it open. Choose whose it is.")

    @property
    def place(self) -> str:
        """The field in words, for what no field on the page shows."""
        return self.field.replace(".", " ").replace("_", " ")


@dataclass(frozen=True)
class Choice:
    """``mine:VERSION:FIELD`` or ``theirs:VERSION:FIELD``: whose a field is that clashed."""

    side: str = ""
    version: int = 0
    field: str = ""

    @classmethod
    def of(cls, data: FormData) -> "Choice":
        side, _, rest = str(data.get("_settle") or "")[:400].partition(":")
        version, _, name = rest.partition(":")
        return cls(side, whole_number(version), name) if side in ("mine", "theirs") else cls()


@dataclass
class ReadEntry:
    """What a posted form comes to: the entry to keep, the form as it comes back, the clashes."""

    entry: Entry | None
    form: Form
    clashes: list[Clash] = field(default_factory=list)


def read_entry(
    stage: str,
    data: FormData,
    judged: JudgedJob,
    system: System,
    part: str,
) -> ReadEntry:
    """What is to be kept of a posted form, and the form as it comes back.

    A field that is not understood keeps its error and its text; all others are kept. An order (a
    row added or taken out, a change of the tree) waits until every field is understood.
    """
    before = entry_of(judged, stage)
    fields = with_the_rest(form_fields(data), flat(before, system), part, in_parts(stage))
    return _ordered(stage, data, judged, system, fields, before)


def _ordered(
    stage: str,
    data: FormData,
    judged: JudgedJob,
    system: System,
    fields: dict[str, Any],
    before: Entry,
) -> ReadEntry:
    """The entry of a form's fields with the order that its button gave."""
    added, removed, put = (str(data.get(name) or "")[:4000] for name in ("_add", "_remove", "_put"))
    entry, form = read(
        ENTRIES[stage],
        fields,
        system,
        before,
        reshape=lambda given: rows_changed(given, added, removed, put, letters_named(judged.job)),
    )
    if entry is None and not orders(data):
        entry = understood(ENTRIES[stage], fields, form.errors, system, before)
    for alike in str(data.get("_as") or "")[:4000].split(";"):
        entry = _alike(entry, alike) if entry is not None and alike else entry
    if entry is not None and stage in EDITS:
        try:
            entry = EDITS[stage](entry, data, judged, system)
        except EditError as error:
            form.errors[error.field] = str(error)
            form.values |= {k: str(v) for k, v in data.items() if k == error.field}
            entry = None
    return ReadEntry(entry, form)


def _alike(entry: Entry, order: str) -> Entry:
    """The order ``walls.B=A``: what B's wall leaves blank and A's says, of what is planned."""
    place, _, other = order.partition("=")
    places, _, name = place.partition(".")
    return like(entry, places, name, other) if places in ALIKE else entry


def orders(data: FormData) -> bool:
    """Whether a button gave an order besides keeping what is typed."""
    named = any(data.get(name) for name in ("_add", "_remove", "_put", "_as"))
    return named or any(data.getlist("_edit"))


def _put_together(
    base: Any, mine: Any, theirs: Any, choice: Choice, version: int | None
) -> tuple[Any, list[Step]]:
    """Two documents that both changed ``base`` as one, and the steps of mine that clash in it.

    ``choice``: whose one field is, by a person's word on the ``version`` that is kept.
    """
    steps = difference(base, mine)
    if choice.side == "theirs":
        steps = [step for step in steps if step.field != choice.field]
    made, left = merge(theirs, steps, base)
    if choice.side != "mine" or choice.version != version:
        return made, left
    for step in (step for step in left if step.field == choice.field):
        made = put_value(made, step.path, step.after)
    return made, [step for step in left if step.field != choice.field]


def merge_entry(
    stage: str, data: FormData, judged: JudgedJob, system: System, part: str, seen: entries.Opened
) -> ReadEntry:
    """A form that was opened before another's save, put together with it.

    Every field that only one of the two has changed is kept as that one has it; the others are
    clashes: they stay as they are kept until somebody chooses (``_settle``).
    """
    model, theirs, choice = ENTRIES[stage], entry_of(judged, stage), Choice.of(data)
    fields = with_the_rest(form_fields(data), flat(seen.entry, system), part, in_parts(stage))
    mine, form = read(model, fields, system, seen.entry)
    mine = mine or understood(model, fields, form.errors, system, seen.entry)
    if mine is None:
        return ReadEntry(None, form)
    current = judged.versions.get(stage)
    made, left = _put_together(dump(seen.entry), dump(mine), dump(theirs), choice, current)
    try:
        entry = model.model_validate(made)
    except ValidationError:
        raise entries.ConflictError(seen.by, seen.at) from None
    shown = flat(entry, system)
    if not left and not form.errors and not _lost_row(data, fields, shown):
        return _ordered(stage, data, judged, system, shown, entry)
    clashes = [Clash.of(step, seen.by, shown) for step in left]
    for name in form.errors:
        shown = _with(shown, fields, name)
    for clash in clashes:
        shown = _with(shown, fields, clash.field)
        form.errors[clash.field] = clash.words
    if not left and not form.errors:
        form.errors[""] = f"{seen.by or 'Somebody else'} changed these rows meanwhile: look again"
    return ReadEntry(entry, Form(shown, form.errors), clashes)


def _with(fields: dict[str, Any], others: dict[str, Any], name: str) -> dict[str, Any]:
    """The fields with one (or all rows of one list) as it is among the others."""

    def of(key: str) -> bool:
        return key == name or key.startswith(f"{name}.")

    return {k: v for k, v in fields.items() if not of(k)} | {
        k: v for k, v in others.items() if of(k)
    }


def _lost_row(data: FormData, mine: dict[str, Any], shown: dict[str, Any]) -> bool:
    """Whether a row is to be taken out of a list that is another one by now."""
    rows = str(data.get("_remove") or "").rpartition(".")[0]
    if not rows:
        return False
    count = [
        len({k.split(".")[rows.count(".") + 1] for k in fields if k.startswith(f"{rows}.")})
        for fields in (mine, shown)
    ]
    return count[0] != count[1]


def whole_number(value: object) -> int:
    """A hidden field's whole number; 0 for anything else."""
    text = str(value or "")
    return int(text) if text.isdecimal() and len(text) < 10 else 0
