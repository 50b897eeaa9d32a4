"""A job's bid: materials and hours priced line by line, options, a page to print, what came."""

from collections.abc import Mapping
from datetime import date
from typing import Any

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import ValidationError

from fairline.core.calc.materials import GROUPS
from fairline.core.plan.bid import (
    MACHINES,
    Bid,
    BidLine,
    BidSheet,
    Option,
    OwnLine,
    PriceBook,
    bid_sheet,
    given,
    what_came,
)
from fairline.core.plan.times import task_times
from fairline.core.problem import from_validation
from fairline.store import bids, house, plans
from fairline.web.frame.forms import Form, form_fields, overtaken
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import day
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId, PostedForm, RequestContext
from fairline.web.plan.planning import tasks_of
from fairline.web.route.routes import lines_of

router = APIRouter(include_in_schema=False)
CHANGED = "Somebody changed this bid meanwhile: look at it as it is now, then again."
WORK = {"labour": "Work", "trade": "Other trades", "own": "Besides"}
TITLES: dict[str, str] = {MACHINES: "Machines", **dict(GROUPS.items()), **WORK}


def _sheet(ctx: RequestContext, judged: JudgedJob, bid: Bid, book: PriceBook) -> BidSheet:
    terms = plans.of_job(ctx.session, judged.id).terms
    return bid_sheet(judged.job, lines_of(judged), tasks_of(ctx, judged, terms), bid, book)


@router.get("/jobs/{job_id}/bid")
def bid_page(job_id: JobId, ctx: Context) -> HTMLResponse:
    """The bid line by line, each priced here or by the company's list."""
    return _page(ctx, ctx.judged(job_id))


def _page(
    ctx: RequestContext, judged: JudgedJob, form: Form | None = None, status: int = 200
) -> HTMLResponse:
    bid, bid_version = bids.of_job(ctx.session, judged.id)
    book = house.price_book(ctx.session)
    sheet = _sheet(ctx, judged, bid, book)
    shown = form or Form(_values(sheet, bid, book))
    groups: dict[str, list[tuple[int, BidLine]]] = {}
    for n, line in enumerate(sheet.lines):
        groups.setdefault(TITLES[line.group], []).append((n, line))
    context = {
        "bid": bid,
        "bid_version": bid_version,
        "book": book,
        "sheet": sheet,
        "groups": groups,
        "form": shown,
        "came": _came(ctx, judged, bid, sheet),
        "money": lambda value: f"{book.currency}{value:,.2f}",
        "rows_own": range(len(bid.own) + 1),
        "rows_options": range(len(bid.options) + 1),
    }
    return page("plan/bid.html", ctx, status, **job_context(judged, judged.at), **context)


def _came(ctx: RequestContext, judged: JudgedJob, bid: Bid, sheet: BidSheet) -> Any:
    if bid.given is None:
        return []
    kept = plans.of_job(ctx.session, judged.id)
    every = {t.id: t for t in tasks_of(ctx, judged, kept.terms)}
    hours: dict[str, float] = {}
    own = kept.took.tasks if kept.took else {}
    for task in every.values():
        if not task.crew or not task.time:
            continue
        seconds = own[task.id].seconds if task.id in own else task.duration_s
        words = task_times()[task.time].words
        hours[words] = hours.get(words, 0.0) + seconds * task.crew / 3600.0
    return what_came(bid.given, sheet, hours if own else {})


def _values(sheet: BidSheet, bid: Bid, book: PriceBook) -> dict[str, Any]:
    """What is typed for this bid alone; a blank goes by the list."""
    values: dict[str, Any] = {
        "note": bid.note,
        "hour": _typed(book.hour),
        "markup": _typed(book.markup * 100),
        "tax": _typed(book.tax * 100),
        "currency": book.currency,
    }
    for n, line in enumerate(sheet.lines):
        values[f"price-{n}"] = _typed(bid.prices.get(line.key))
        values[f"quantity-{n}"] = _typed(bid.quantities.get(line.key))
        values[f"key-{n}"] = line.key
    for n, own in enumerate(bid.own):
        values |= {f"own-words-{n}": own.words, f"own-quantity-{n}": _typed(own.quantity)}
        values[f"own-price-{n}"] = _typed(own.price)
    for n, option in enumerate(bid.options):
        values |= {f"option-words-{n}": option.words, f"option-price-{n}": _typed(option.price)}
        values[f"option-chosen-{n}"] = "true" if option.chosen else ""
    return values


def _typed(value: float | None) -> str:
    return "" if value is None else f"{value:.2f}".rstrip("0").rstrip(".")


class _Reader:
    """Reads amounts; what is wrong is kept by the field's name."""

    def __init__(self, fields: Mapping[str, Any]) -> None:
        self.fields, self.errors = fields, dict[str, str]()

    def said(self, name: str) -> str:
        return str(self.fields.get(name, "")).strip()

    def amount(self, name: str, most: float = 1e9) -> float | None:
        """A number as a price is typed, ``1,200.50`` or ``1200,50``; None for a blank."""
        text = self.said(name).replace(" ", "").lstrip("$€£")
        if not text:
            return None
        last = max(text.rfind(","), text.rfind("."))
        if "," in text and (last != text.rfind(",") or len(text) - last == 4):
            text = text.replace(",", "")
        try:
            found = float(text.replace(",", "."))
        except ValueError:
            self.errors[name] = "type an amount such as 12.50"
            return None
        if not 0 <= found <= most:
            self.errors[name] = f"between nothing and {most:,.0f}"
            return None
        return found


@router.post("/jobs/{job_id}/bid")
def save_bid(job_id: JobId, data: PostedForm, ctx: Context) -> Response:
    """The bid as typed; ``to_list``: its prices go into the company's list too."""
    judged, fields = ctx.judged(job_id), form_fields(data)
    reader = _Reader(fields)
    before, bid_version = bids.of_job(ctx.session, job_id)
    book = _book(reader, house.price_book(ctx.session))
    form = Form(dict(fields), reader.errors)
    try:
        bid = _bid(reader, before)
    except ValidationError as error:
        reader.errors["note"] = str(from_validation(error)["detail"])
        return _page(ctx, judged, form, 422)
    if reader.errors:
        return _page(ctx, judged, form, 422)
    if overtaken(data, bid_version):
        form.errors[""] = CHANGED
        return _page(ctx, judged, form, 409)
    if "give" in fields:
        sheet = _sheet(ctx, judged, bid, book)
        if sheet.lacking:
            form.errors["give"] = f"{len(sheet.lacking)} lines have no price yet"
            return _page(ctx, judged, form, 422)
        on = day(ctx.now()).isoformat()
        bid = bid.model_copy(update={"given": given(sheet, on, ctx.person or "", book.currency)})
    if "to_list" in fields:
        book = book.model_copy(update={"prices": book.prices | bid.prices})
        bid = bid.model_copy(update={"prices": {}})
    with ctx.change(settles=False) as session:
        bids.keep(session, job_id, bid)
        if book != house.price_book(session):
            house.set_price_book(session, book)
    return RedirectResponse(f"/jobs/{job_id}/bid", 303)


def _book(reader: _Reader, before: PriceBook) -> PriceBook:
    """The company's hour, markup and tax as they stand on the page."""
    if "hour" not in reader.fields:
        return before
    markup, tax = reader.amount("markup", 1000.0), reader.amount("tax", 100.0)
    return before.model_copy(
        update={
            "hour": reader.amount("hour", 1e6),
            "markup": (markup or 0.0) / 100,
            "tax": (tax or 0.0) / 100,
            "currency": reader.said("currency")[:8] or "$",
        }
    )


def _bid(reader: _Reader, before: Bid) -> Bid:
    prices, quantities = dict(before.prices), dict(before.quantities)
    for name in [n for n in reader.fields if n.startswith("key-")]:
        n, key = name.removeprefix("key-"), reader.said(name)
        for kept, value in (
            (prices, reader.amount(f"price-{n}")),
            (quantities, reader.amount(f"quantity-{n}", 1e6)),
        ):
            kept.pop(key, None)
            if value is not None:
                kept[key] = value
    return Bid.model_validate(
        {
            "prices": prices,
            "quantities": quantities,
            "own": [o.model_dump() for o in _own(reader)],
            "options": [o.model_dump() for o in _options(reader)],
            "note": reader.said("note"),
            "given": before.given,
        }
    )


def _own(reader: _Reader) -> list[OwnLine]:
    found = []
    for name in [n for n in reader.fields if n.startswith("own-words-")]:
        n, words = name.removeprefix("own-words-"), reader.said(name)
        quantity, price = reader.amount(f"own-quantity-{n}", 1e6), reader.amount(f"own-price-{n}")
        if words:
            found.append(OwnLine(words=words[:200], quantity=quantity or 1.0, price=price))
    return found


def _options(reader: _Reader) -> list[Option]:
    found = []
    for name in [n for n in reader.fields if n.startswith("option-words-")]:
        n, words = name.removeprefix("option-words-"), reader.said(name)
        price, chosen = reader.amount(f"option-price-{n}"), bool(reader.said(f"option-chosen-{n}"))
        if words:
            found.append(Option(words=words[:200], price=price, chosen=chosen))
    return found


@router.get("/jobs/{job_id}/bid/print")
def bid_print(job_id: JobId, ctx: Context, lines: bool = False) -> HTMLResponse:
    """The bid for the customer: sums and options, or every line."""
    judged = ctx.judged(job_id)
    bid, _ = bids.of_job(ctx.session, job_id)
    book = house.price_book(ctx.session)
    return page(
        "plan/bid_print.html",
        ctx,
        **job_context(judged, judged.at),
        bid=bid,
        sheet=_sheet(ctx, judged, bid, book),
        every_line=lines,
        book=book,
        on=date.fromisoformat(bid.given.on) if bid.given else day(ctx.now()),
        money=lambda value: f"{book.currency}{value:,.2f}",
    )
