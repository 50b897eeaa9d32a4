"""What each kind of act does to a part that it reaches, whether or not it was in order."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from fairline.core.contents.act import Act
from fairline.core.contents.part import NOUGHT_PA, Content, Part
from fairline.core.contents.state import Finding

Change = Callable[[Part], Part]


def change_of(act: Act, found: Sequence[Finding]) -> Change:
    """What an act does to a part that it reaches."""
    onto = any(f.state in ("refrigerant", "leaking", "mixed") for f in found)
    does = CHANGES.get(act.kind)
    return (lambda p: p) if does is None else lambda p: does(p, act, onto)


def _new(part: Part, act: Act, content: Content, **more: Any) -> Part:
    """A part with another content since an act; with the same one only what ``more`` says."""
    if part.content == content:
        return replace(part, **more)
    return replace(part, content=content, since=act.at, by=act.by, **more)


def _opened(part: Part, act: Act, onto: bool) -> Part:
    """Opened: what was in it is gone, or air came to it; its nitrogen proves the joint no more."""
    said = act.said
    if "tightened" in said:
        return part if "core" in said else replace(part, leaks=part.leaks - {act.place})
    if part.content == "charged" and "opened" not in said:
        return part
    ends = part.ends
    if act.kind == "joint":
        ends = ends | {act.place} if "opened" in said else ends - {act.place}
    content: Content = "mixed" if onto and part.valves else "purge" if "purge" in said else "air"
    leaks = part.leaks - {act.place}
    shut = {"gauge_pa": None, "pump": False, "pumped": False, "tested": False, "named": ""}
    return _new(part, act, content, ends=ends, leaks=leaks, **shut)


def _exposed(part: Part, act: Act, onto: bool) -> Part:
    raining = act.at if "rain" in act.said else None
    if "opened" in act.said:
        return replace(_opened(part, act, onto), raining=raining)
    if "sealed" in act.said:
        return _new(part, act, "nitrogen", gauge_pa=None, raining=raining)
    return replace(part, raining=raining)


def _nitrogen(part: Part, act: Act, onto: bool) -> Part:
    high = act.gauge_pa is not None and act.gauge_pa > NOUGHT_PA
    values = {"gauge_pa": act.gauge_pa, "pump": False, "pumped": False, "named": ""}
    return _new(
        part,
        act,
        "mixed" if onto else "nitrogen",
        tested=part.tested or (high and not onto),
        **values,
    )


def _bled(part: Part, act: Act, onto: bool) -> Part:
    """Nitrogen let out: what is left as the gauge read it; of another content nothing changes."""
    return replace(part, gauge_pa=act.gauge_pa or 0.0) if part.content == "nitrogen" else part


def _swept(part: Part, act: Act, onto: bool) -> Part:
    content: Content = "mixed" if onto else "nitrogen"
    return _new(part, act, content, gauge_pa=0.0, pump=False, pumped=False)


def _pumped(part: Part, act: Act, onto: bool) -> Part:
    return part if onto else _new(part, act, "vacuum", gauge_pa=None, pump=True, pumped=True)


def _shut_off(part: Part, act: Act, onto: bool) -> Part:
    if onto:
        return part
    pumped = part.pumped or "seen" in act.said
    return _new(part, act, "vacuum", gauge_pa=None, pump=False, pumped=pumped)


def _weighed(part: Part, act: Act, onto: bool) -> Part:
    """Refrigerant weighed in or taken out; all of it where the gauge came to nought."""
    if "emptied" in act.said:
        return _new(part, act, "recovered", gauge_pa=0.0, pump=False, pumped=False)
    if {"out", "running"} & act.said or part.content == "refrigerant":
        return part
    content: Content = "mixed" if _spoilt(part) else "refrigerant"
    return _new(part, act, content, pump=False, gauge_pa=None)


def _released(part: Part, act: Act, onto: bool) -> Part:
    content: Content = "mixed" if onto or _spoilt(part) else "refrigerant"
    return _new(part, act, content, valves=True, pump=False, named="")


def _spoilt(part: Part) -> bool:
    """Whether refrigerant that is let into a part mixes with what is in it."""
    return part.content in ("air", "purge", "mixed") or part.pressed or bool(part.ends)


def _valves_shut(part: Part, act: Act, onto: bool) -> Part:
    return replace(part, valves=False)


def _drawn_down(part: Part, act: Act, onto: bool) -> Part:
    content: Content = "mixed" if onto else "pumped-down"
    return _new(part, act, content, valves=False, gauge_pa=0.0)


def _looked(part: Part, act: Act, onto: bool) -> Part:
    found = "leak" in act.said and part.content in ("refrigerant", "mixed")
    return replace(part, leaks=part.leaks | {act.place}) if found else part


def _let_run(part: Part, act: Act, onto: bool) -> Part:
    return replace(part, named=f"{act.by}: {act.why}")


CHANGES: Mapping[str, Callable[[Part, Act, bool], Part]] = {
    "joint": _opened,
    "machine": _opened,
    "exposure": _exposed,
    "nitrogen": _nitrogen,
    "bled": _bled,
    "sweep": _swept,
    "pump-by-name": _let_run,
    "pump": _pumped,
    "decay": _shut_off,
    "weighed": _weighed,
    "released": _released,
    "shut": _valves_shut,
    "pumped-down": _drawn_down,
    "look": _looked,
}
