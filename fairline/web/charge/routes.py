"""Charge pages: all that is posted there, and what the page shows."""

from fastapi import APIRouter

from fairline.web.charge import valves, view, weighing

router = APIRouter(include_in_schema=False)
for one in (weighing, valves):
    router.include_router(one.router)

SHOWS = view.view
