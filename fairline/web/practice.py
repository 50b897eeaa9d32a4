"""The house-practice page: schools, own limits, local code entries."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError

from fairline.core.practice import LIMITS, SCHOOL_LABELS, SCHOOLS, CodeEntry, Practice
from fairline.core.problem import sentence
from fairline.core.quantities import parse, typed
from fairline.store import house
from fairline.web.forms import Form, posted
from fairline.web.pages import page
from fairline.web.visit import AForm, AVisit, Visit

router = APIRouter(include_in_schema=False)


def _shown(practice: Practice, visit: Visit) -> dict[str, Any]:
    """The practice as form fields: ``house.NAME``, ``code.NAME``, ``source.NAME``."""
    values: dict[str, Any] = {topic: getattr(practice, topic) for topic in SCHOOLS}
    for name, d in LIMITS.items():
        own, entry = practice.house.get(name), practice.code.get(name)
        values[f"house.{name}"] = "" if own is None else _typed(own, d.kind, visit)
        values[f"code.{name}"] = "" if entry is None else _typed(entry.value, d.kind, visit)
        values[f"source.{name}"] = entry.source if entry else ""
    return values


def _typed(value: float, kind: str, visit: Visit) -> str:
    return typed(value, kind, visit.system) if kind else f"{value:g}"


def _practice_page(visit: Visit, form: Form, status: int = 200) -> HTMLResponse:
    return page(
        "practice/practice.html",
        visit,
        status=status,
        form=form,
        schools=SCHOOLS,
        labels=SCHOOL_LABELS,
        limits=LIMITS,
    )


@router.get("/practice")
def open_practice(visit: AVisit) -> HTMLResponse:
    practice, _ = house.practice(visit.session)
    return _practice_page(visit, Form(_shown(practice, visit)))


@router.post("/practice")
def save_practice(data: AForm, visit: AVisit) -> Response:
    fields = posted(data)
    before, _ = house.practice(visit.session)
    shown = _shown(before, visit)
    errors: dict[str, str] = {}
    own: dict[str, float] = {}
    code: dict[str, CodeEntry] = {}
    for name, d in LIMITS.items():
        for part in ("house", "code"):
            key = f"{part}.{name}"
            text = str(fields.get(key, "")).strip()
            if not text:
                continue
            try:
                if text == shown[key]:
                    value = before.house[name] if part == "house" else before.code[name].value
                else:
                    typed_value = parse(text, d.kind, visit.system) if d.kind else _whole(text)
                    value = d.check(typed_value)
            except ValueError as error:
                errors[key] = str(error)
                continue
            if part == "house":
                own[name] = value
            else:
                source = str(fields.get(f"source.{name}", "")).strip()
                if not source:
                    errors[f"source.{name}"] = "name the code and its paragraph"
                else:
                    code[name] = CodeEntry(value=value, source=source[:200])
    try:
        practice = Practice.model_validate(
            {topic: fields.get(topic, getattr(before, topic)) for topic in SCHOOLS}
            | {"house": own, "code": code}
        )
    except ValidationError as error:
        errors |= {str(e["loc"][0]): sentence(e) for e in error.errors()}
    if errors:
        return _practice_page(visit, Form(fields, errors), 422)
    with visit.change() as session:
        house.set_practice(session, practice)
    return RedirectResponse("/practice", 303)


def _whole(text: str) -> float:
    if not text.isdecimal():
        raise ValueError("type a whole number")
    return float(text)
