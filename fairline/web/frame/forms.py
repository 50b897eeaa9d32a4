"""Forms: posted fields into a model, and a model into fields, with errors beside them."""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError
from starlette.datastructures import FormData

from fairline.core.entry import Entry, QuantityKind, kind_of, quantity_of
from fairline.core.problem import field_path, sentence
from fairline.core.quantities import assumed, show, typed
from fairline.core.units import System
from fairline.web.frame.moments import DONE_WORDS
from fairline.web.frame.unit_fields import in_field, joined, unit_of

Model = TypeVar("Model", bound=Entry)

MAX_DEPTH = 4


def nested(fields: Mapping[str, Any]) -> dict[str, Any]:
    """``{"legs.0.length_m": "3"}`` as ``{"legs": [{"length_m": "3"}]}``, in numeric order."""
    tree: dict[str, Any] = {}
    for name, value in fields.items():
        *path, last = name.split(".")
        if len(path) > MAX_DEPTH:
            raise ValueError(name[:40])
        place = tree
        for part in path:
            place = place.setdefault(part, {})
            if not isinstance(place, dict):
                raise ValueError(name)
        if last in place:
            raise ValueError(name)
        place[last] = value
    return {k: _listed(v) for k, v in tree.items()}


def _listed(value: Any) -> Any:
    if not isinstance(value, dict):
        return value
    if value and all(k.isdigit() for k in value):
        return [_listed(value[k]) for k in sorted(value, key=int)]
    return {k: _listed(v) for k, v in value.items()}


def flat(model: BaseModel, system: System, prefix: str = "") -> dict[str, Any]:
    """A model as form fields, quantities as they are typed in ``system``."""
    fields: dict[str, Any] = {}
    for name in type(model).model_fields:
        value, key = getattr(model, name), f"{prefix}{name}"
        if isinstance(value, BaseModel):
            fields |= flat(value, system, f"{key}.")
        elif isinstance(value, dict):
            for part, item in value.items():
                inside = isinstance(item, BaseModel)
                fields |= (
                    flat(item, system, f"{key}.{part}.") if inside else {f"{key}.{part}": item}
                )
        elif isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
            for i, item in enumerate(value):
                fields |= flat(item, system, f"{key}.{i}.")
        elif isinstance(value, tuple):
            fields[key] = value
        elif value is None:
            fields[key] = ""
        elif (kind := kind_of(type(model), name)) and isinstance(value, int | float):
            fields[key] = typed(value, kind, system)
        else:
            fields[key] = value
    return fields


class Form:
    """What a form shows: the values (as typed, or as kept) and the error of each field."""

    def __init__(
        self,
        values: Mapping[str, Any],
        errors: Mapping[str, str] | None = None,
        prefix: str = "",
    ) -> None:
        self.values, self.errors = dict(values), dict(errors or {})
        self.notes: dict[str, str] = {}  # how a bare number was read, beside its field
        self.prefix = prefix  # keeps the ids of two forms on one page apart

    def value(self, name: str) -> Any:
        return self.values.get(name, "")

    def error(self, name: str) -> str | None:
        return self.errors.get(name)

    def note(self, name: str) -> str | None:
        return self.notes.get(name)

    def checked(self, name: str, option: str) -> bool:
        value = self.values.get(name)
        return option in value if isinstance(value, tuple | list) else str(value) == option

    @property
    def whole(self) -> str | None:
        """An error that belongs to no single field."""
        return self.errors.get("")


def form_fields(data: FormData) -> dict[str, Any]:
    """The fields of a posted form; a name ending in ``[]`` gathers a list.

    A bare number takes the unit that was chosen beside it (``_u.`` and its name).
    """
    fields: dict[str, Any] = {}
    units: dict[str, str] = {}
    for name, value in data.multi_items():
        if not isinstance(value, str):
            continue
        if of := unit_of(name):
            units[of] = value[:12]
        if name.startswith("_"):
            continue
        if name.endswith("[]"):
            fields.setdefault(name[:-2], [])
            if value:
                fields[name[:-2]].append(value)
        else:
            fields[name] = value
    typed_in = {
        name: joined(fields[name], unit)
        for name, unit in units.items()
        if isinstance(fields.get(name), str)
    }
    return fields | typed_in


def check_done_time(form: Form, data: FormData) -> Form:
    """A form with its error about the moment beside the field that the moment is typed in."""
    if form.errors.pop("at", ""):
        form.errors["_done"] = DONE_WORDS
    form.values["_done"] = str(data.get("_done") or "")[:60]
    return form


def overtaken(data: FormData, version: int) -> bool:
    """Whether a form was opened before the last change of what it holds.

    A script's request that names no version is not asked.
    """
    opened = data.get("_version")
    return isinstance(opened, str) and opened != "" and opened != str(version)


CHANGED_MEANWHILE = (
    "Somebody else has changed this since you opened it. What you typed is still here: open the "
    "page anew in another tab, compare, then keep it again."
)


def read(
    model: type[Model],
    fields: Mapping[str, Any],
    system: System,
    before: Model | None = None,
    extra: Mapping[str, Any] | None = None,
    reshape: Callable[[dict[str, Any]], dict[str, Any]] = dict,
) -> tuple[Model | None, Form]:
    """Validate posted fields; the entry, or None with the errors beside the fields.

    A field whose text is what the page showed for ``before`` keeps the value behind it, so that
    saving a page never rounds what was measured. ``extra`` adds what no person types;
    ``reshape`` adds or takes out rows once every value is known.
    """
    kept = _kept(before, system) if before is not None else {}
    exact = {
        name: kept[name][1] if name in kept and value in kept[name][0] else value
        for name, value in fields.items()
    }
    shown = dict(fields)
    try:
        shown = reshape(shown)
        tree = nested(reshape(exact)) | dict(extra or {})
        entry, form = model.model_validate(tree, context={"system": system}), Form(shown)
        form.notes = _notes(entry, fields, system)
        return entry, form
    except ValidationError as error:
        errors: dict[str, str] = {}
        for e in error.errors(include_url=False):
            errors.setdefault(field_path(e["loc"]), sentence(e))
        return None, Form(shown, errors)
    except ValueError as error:
        return None, Form(shown, {"": f"the field {error} is not understood"})


def understood(
    model: type[Model],
    fields: Mapping[str, Any],
    errors: Mapping[str, str],
    system: System,
    before: Model,
) -> Model | None:
    """The entry with every field that was understood; the wrong ones stay as they were kept.

    None where something else is wrong than single fields.
    """
    shown, left = flat(before, system), dict(errors)
    tried = dict(fields)
    for _ in range(5):
        if not left or any(name not in tried for name in left):
            return None
        for name in left:
            if name in shown:
                tried[name] = shown[name]
            else:
                tried.pop(name)
        entry, form = read(model, tried, system, before)
        if entry is not None:
            return entry
        left = form.errors
    return None


def _quantities(model: BaseModel, prefix: str = "") -> Iterator[tuple[str, QuantityKind, float]]:
    """Every quantity of a model that has a value: its field's name, its kind, the value."""
    for name in type(model).model_fields:
        value, key = getattr(model, name), f"{prefix}{name}"
        for part, item in _parts(value):
            yield from _quantities(item, f"{key}.{part}." if part else f"{key}.")
        if isinstance(value, int | float) and (mark := quantity_of(type(model), name)):
            yield key, mark, value


def _parts(value: object) -> list[tuple[str, BaseModel]]:
    """The models in a field, each with its name there: none for one that is the field itself."""
    items: Iterable[tuple[object, object]] = []
    if isinstance(value, BaseModel):
        items = [("", value)]
    elif isinstance(value, dict):
        items = value.items()
    elif isinstance(value, tuple):
        items = enumerate(value)
    return [(str(part), item) for part, item in items if isinstance(item, BaseModel)]


def _kept(model: BaseModel, system: System) -> dict[str, tuple[tuple[str, ...], float]]:
    """Each quantity of a model: how the page shows it, and the value behind.

    In its field the unit that a bare number takes anyway stands apart.
    """
    found: dict[str, tuple[tuple[str, ...], float]] = {}
    for key, mark, value in _quantities(model):
        text = typed(value, mark.name, system)
        shown = in_field(text, mark.name, system)
        apart = shown.text if shown.unit == shown.units[0][1] else text
        found[key] = ((text, apart), value)
    return found


def _notes(entry: BaseModel, fields: Mapping[str, Any], system: System) -> dict[str, str]:
    """Beside each field whose bare number took another unit than the field's own: what it was."""
    found = {}
    for key, mark, value in _quantities(entry):
        text = str(fields.get(key) or "")
        took = mark.plausible and text and assumed(text, mark.name, system, mark.plausible)
        if took or re.search(r"\d,\d{3}(?!\d)", text):
            shown = show(value, mark.name, system)
            found[key] = f"Read as {shown.text}, {shown.other}."
    return found
