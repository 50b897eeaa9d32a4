"""Things entered outside the wall or room that they are in: measured or typed wrongly."""

from collections.abc import Iterable

from fairline.core.call import Call, Check, Verdict
from fairline.core.quantities import both

TOLERANCE_M = 0.005  # two tapes differ by as much; our own choice

# What a thing is called, where it begins and how large it is, along and up (or across)
Thing = tuple[str, float, float, float, float]


def outside(zone: str, where: str, width_m: float, height_m: float, of: Iterable[Thing]) -> Check:
    """Whether all lie within ``width_m`` by ``height_m``; the first that does not is told."""
    call = Call(verdict=Verdict.HOLDS, because=f"All that is entered lies within the {where}.")
    for name, x_m, y_m, w_m, h_m in of:
        for end_m, most_m in ((x_m + w_m, width_m), (y_m + h_m, height_m)):
            if end_m > most_m + TOLERANCE_M:
                call = Call(
                    verdict=Verdict.WAIT,
                    because=f"The {name} reaches to {both(end_m, 'small')}; the {where} ends at "
                    f"{both(most_m, 'small')}.",
                    do_next=f"Measure the {name} again, or the {where}.",
                )
                return Check(id=f"{zone}_outside", label="Within what was measured", call=call)
    return Check(id=f"{zone}_outside", label="Within what was measured", call=call)
