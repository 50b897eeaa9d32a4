"""The company's people: names, crews, what each can do, and the hours of a day."""

from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError

from fairline.core.plan.crew import SKILLS, WEEK, CrewBook, Person
from fairline.core.problem import sentence
from fairline.store import house
from fairline.web.frame.forms import Form, form_fields, overtaken
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context, PostedForm, RequestContext

router = APIRouter(include_in_schema=False)
WEEKDAYS = tuple("0123456")


@router.get("/crew")
def crew(ctx: Context) -> HTMLResponse:
    """Who there is, and a blank row for one more."""
    return _page(ctx, _form(house.crew_book(ctx.session)))


def _form(book: CrewBook) -> Form:
    values: dict[str, Any] = {
        "opens": book.opens,
        "closes": book.closes,
        "days": [str(d) for d in book.days],
        "count": len(book.people),
    }
    for n, person in enumerate(book.people):
        values |= {f"name-{n}": person.name, f"crew-{n}": person.crew}
        values[f"skills-{n}"] = list(person.skills)
    return Form(values)


def _page(ctx: RequestContext, form: Form, status: int = 200) -> HTMLResponse:
    return page(
        "plan/crew.html",
        ctx,
        status,
        form=form,
        rows=range(int(form.values.get("count", 0)) + 1),
        skills=SKILLS,
        week=WEEK,
        version=house.version(ctx.session, "crew"),
    )


@router.post("/crew")
def save_crew(data: PostedForm, ctx: Context) -> Response:
    """The people as typed; a row whose name is blank is taken out."""
    fields = form_fields(data)
    count = sum(1 for name in fields if name.startswith("name-"))
    form = Form(dict(fields) | {"count": max(0, count - 1)})
    if overtaken(data, house.version(ctx.session, "crew")):
        form.errors["opens"] = "somebody changed this meanwhile: open the page anew, then again"
        return _page(ctx, form, 409)
    people = []
    for n in range(count):
        name = str(fields.get(f"name-{n}", "")).strip()
        if not name:
            continue
        asked = {
            "name": name,
            "crew": str(fields.get(f"crew-{n}", "")),
            "skills": fields.get(f"skills-{n}", []),
        }
        try:
            people.append(Person.model_validate(asked))
        except ValidationError as error:
            form.errors[f"name-{n}"] = sentence(error.errors(include_url=False)[0])
    hours = {name: fields.get(name, "") for name in ("opens", "closes")}
    days = [int(d) for d in fields.get("days", []) if str(d) in WEEKDAYS]
    try:
        book = CrewBook.model_validate({"people": people, "days": days, **hours})
    except ValidationError as error:
        for one in error.errors(include_url=False):
            told = sentence(one)
            where, _, rest = told.partition(": ")
            if one["loc"]:
                where, rest = str(one["loc"][0]), told
            form.errors.setdefault("name-0" if where == "people" else where, rest)
        book = None
    if form.errors or book is None:
        return _page(ctx, form, 422)
    with ctx.change(settles=False) as session:
        house.set_crew_book(session, book)
    return RedirectResponse("/crew", 303)
