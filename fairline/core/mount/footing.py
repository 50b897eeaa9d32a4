"""What the outdoor unit's support rests on: the pad against the feet, soft ground by a date."""

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call
from fairline.core.mount.yard import YardPlace
from fairline.core.quantities import both
from fairline.core.sheet import Outdoor

EDGE_M = 0.05  # of pad beyond a foot on every side: common practice, no source


def footing_checks(place: YardPlace, unit: Outdoor) -> list[Check]:
    """The pad's size where it is measured, and what stands on soft ground."""
    return [*_pad(place, unit), *_stand(place, unit), *_ground(place)]


def _pad(place: YardPlace, unit: Outdoor) -> list[Check]:
    sides = (
        ("across", place.pad_width_m, unit.feet_width_m),
        ("deep", place.pad_depth_m, unit.feet_depth_m),
    )
    measured = [(way, pad, feet) for way, pad, feet in sides if pad and feet]
    if place.support != "pad" or not measured:
        return []
    way, pad, feet = min(measured, key=lambda side: side[1] - side[2])
    said = f"The pad is {both(pad, 'small')} {way}, the feet stand {both(feet, 'small')} apart"
    if pad < feet - 1e-6:
        call = fault_call(f"{said}: a foot hangs over.", "Take a larger pad.")
    elif pad < feet + 2 * EDGE_M - 1e-6:
        call = fault_call(
            f"{said}: less than {both(EDGE_M, 'small')} of pad beyond a foot.",
            "Centre the unit, or take a larger pad: edges break.",
            Verdict.WATCH,
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because=f"{said}.")
    return [Check(id="pad", label="Pad under the feet", call=call)]


def _stand(place: YardPlace, unit: Outdoor) -> list[Check]:
    """A home-made stand: what each post carries, and how deep it stands; nobody gives a limit."""
    if place.support != "stand" or not place.posts or not unit.weight_kg:
        return []
    each = unit.weight_kg / place.posts
    deep = f", {both(place.post_depth_m, 'small')} deep" if place.post_depth_m else ""
    call = fault_call(
        f"A stand of one's own: {both(each, 'weight')} on each of {place.posts} posts{deep}; "
        "nobody gives a limit.",
        "Say how deep the posts stand, and look again by a date.",
        Verdict.WATCH,
    )
    check = Check(id="posts", label="Posts of the stand", call=call, value=each, unit="kg")
    return [check.model_copy(update={"kind": "weight"})]


def _ground(place: YardPlace) -> list[Check]:
    """Soft ground: nobody gives a limit for it, so it is looked at again by a date."""
    if place.ground != "soft" or place.support not in ("pad", "stand"):
        return []
    if place.looked_again == "yes":
        call = Call(verdict=Verdict.HOLDS, because="Soft ground: looked at again, it stands level.")
    elif place.looked_again == "no":
        call = fault_call("Soft ground: it has moved.", "Level it again before it pulls its lines.")
    elif place.look_again:
        call = Call(
            verdict=Verdict.WATCH,
            because=f"Soft ground: looked at again on {place.look_again}.",
            do_next=f"Put a level on it on {place.look_again}.",
        )
    else:
        call = Call(
            verdict=Verdict.WAIT,
            because="It stands on soft ground, and nobody looks again.",
            do_next="Say on which day the level is put on it again.",
        )
    return [Check(id="ground", label="Ground under it", call=call)]
