"""The handbook: what each stage asks and why, readable on its own, and searched."""

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse

from fairline.core import handbook
from fairline.store.document import NotFoundError
from fairline.web.drawing.line_walk import line_walk
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context

router = APIRouter(include_in_schema=False)


@router.get("/handbook")
def contents(ctx: Context, q: Annotated[str, Query(max_length=100)] = "") -> HTMLResponse:
    """All chapters, or those in which what is looked for stands; and the words that match."""
    asked = q.strip().lower()
    words = {w: m for w, m in handbook.words().items() if asked in f"{w} {m}".lower()}
    chapters = handbook.found(q)
    walks = [] if q else handbook.walks().values()
    return page("handbook/handbook.html", ctx, q=q, chapters=chapters, words=words, walks=walks)


@router.get("/handbook/systems/{name}")
def walk(name: str, ctx: Context) -> HTMLResponse:
    """A kind of system from the unit to its last head, station by station, drawn."""
    found = handbook.walks().get(name)
    if found is None:
        raise NotFoundError(f"the handbook knows no system called {name[:40]}")
    drawn = line_walk([station for station, _, _ in found.stations])
    others = handbook.walks().values()
    return page("handbook/walk.html", ctx, walk=found, others=others, drawn=drawn)


@router.get("/handbook/{stage}")
def chapter(stage: str, ctx: Context) -> HTMLResponse:
    """What the handbook has on one stage, with its arithmetic worked through."""
    found = handbook.chapters().get(stage)
    if found is None:
        raise NotFoundError(f"the handbook has no chapter called {stage[:40]}")
    return page("handbook/chapter.html", ctx, chapter=found, others=handbook.chapters().values())
