"""The handbook: what each stage asks and why, readable on its own, and searched."""

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse

from fairline.core import handbook
from fairline.store.document import NotFoundError
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context

router = APIRouter(include_in_schema=False)


@router.get("/handbook")
def contents(ctx: Context, q: Annotated[str, Query(max_length=100)] = "") -> HTMLResponse:
    """All chapters, or those in which what is looked for stands; and the words that match."""
    asked = q.strip().lower()
    words = {w: m for w, m in handbook.words().items() if asked in f"{w} {m}".lower()}
    chapters = handbook.found(q)
    return page("handbook/handbook.html", ctx, q=q, chapters=chapters, words=words)


@router.get("/handbook/{stage}")
def chapter(stage: str, ctx: Context) -> HTMLResponse:
    """What the handbook has on one stage, with its arithmetic worked through."""
    found = handbook.chapters().get(stage)
    if found is None:
        raise NotFoundError(f"the handbook has no chapter called {stage[:40]}")
    return page("handbook/chapter.html", ctx, chapter=found, others=handbook.chapters().values())
