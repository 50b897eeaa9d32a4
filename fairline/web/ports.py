"""Which ports an act was on, of a system of several circuits: ticked, or all that there are."""

from starlette.datastructures import FormData

from fairline.core.route.circuits import circuits_of
from fairline.web.visit import Judged


def named_ports(judged: Judged, data: FormData) -> tuple[tuple[str, ...], bool]:
    """The circuits that a form names, none where there is but one; and whether none was ticked.

    A form that does not ask (``_ports`` is not in it) is of all of them.
    """
    known = [c.id for c in circuits_of(judged.pipes, judged.rules)]
    ticked = {str(value) for value in data.getlist("ports")}
    if not known or not data.get("_ports"):
        return tuple(c for c in known if c in ticked), False
    found = tuple(sorted(c for c in known if c in ticked))
    return found, not found
