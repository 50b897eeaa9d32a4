"""Legs that lie in the sun or in the ground: what that does to them, and what it asks."""

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call, plural
from fairline.core.route.piping import Piping, Stretch


def exposed_checks(pipes: Piping) -> list[Check]:
    """Bare foam outdoors, and lines in the ground without a sleeve, run by run."""
    return [check for s in pipes.stretches for check in (_bare(s), _buried(s)) if check is not None]


def _bare(stretch: Stretch) -> Check | None:
    """Sunlight destroys bare foam in about ten years (common practice, no source)."""
    legs = [x for x in stretch.legs if x.kept == "bare" and x.setting in ("outside", "roof")]
    if not legs:
        return None
    call = fault_call(
        f"Run {stretch.id}: {plural(len(legs), 'leg')} of bare foam outdoors: sunlight destroys it "
        "in about ten years.",
        "Cover it, or wind tape for sunlight from the bottom up.",
        Verdict.WATCH,
    )
    return _check(stretch, "bare", "Bare foam", call)


def _buried(stretch: Stretch) -> Check | None:
    """In the ground: a sleeve that drains, and a cable made for it."""
    legs = [x for x in stretch.legs if x.setting == "buried"]
    if not legs:
        return None
    if any(leg.kept != "sleeve" for leg in legs):
        call = fault_call(
            f"Run {stretch.id} lies in the ground without a sleeve: it stands in water there.",
            "Lead it in a pipe sleeve that drains; the cable in conduit, as local code has it.",
        )
    else:
        call = fault_call(
            f"Run {stretch.id} lies in the ground, in a sleeve.",
            "Let the sleeve drain; the cable is made for it, or in conduit, as local code has it.",
            Verdict.WATCH,
        )
    return _check(stretch, "buried", "In the ground", call)


def _check(stretch: Stretch, name: str, label: str, call: Call) -> Check:
    return Check(id=f"{name}_{stretch.id}", label=label, call=call, part=f"runs.{stretch.id}")
