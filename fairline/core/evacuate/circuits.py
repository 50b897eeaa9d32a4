"""Decays by the ports that were open to the rig, and the call of all of them together."""

from collections.abc import Mapping, Sequence

from fairline.core.call import Call, Check, Place, StageCall, Verdict, deciding, deciding_check
from fairline.core.check import stage_call
from fairline.core.readings import VacuumRun
from fairline.core.route.circuits import Circuit, Open, Ports


def runs_by_ports(
    vacua: Sequence[VacuumRun], said: Sequence[Ports]
) -> dict[Open, tuple[VacuumRun, ...]]:
    """The runs in order, by the ports open to the rig; runs without ports are under ``()``."""
    of = {p.run: tuple(sorted(set(p.open))) for p in said}
    found: dict[Open, tuple[VacuumRun, ...]] = {}
    for run in vacua:
        key = of.get(run.uid, ())
        found[key] = (*found.get(key, ()), run)
    return found


def current_groups(
    found: Sequence[Circuit], groups: Mapping[Open, tuple[VacuumRun, ...]]
) -> dict[str, Open]:
    """The group of ports that counts for each circuit: the one with its newest run.

    A circuit without a run counts by itself.
    """
    keys: dict[str, Open] = {}
    for circuit in found:
        newest = max(
            ((runs[-1].started_at, key) for key, runs in groups.items() if circuit.id in key),
            default=None,
        )
        keys[circuit.id] = newest[1] if newest is not None else (circuit.id,)
    return keys


def ports_in_words(found: Sequence[Circuit], key: Open) -> str:
    """The ports of a group in words."""
    tags = [c.tag for c in found if c.id in key] or list(key)
    if len(found) > 1 and len(tags) == len(found):
        return "All ports"
    return f"Port {tags[0]}" if len(tags) == 1 else f"Ports {', '.join(tags[:-1])} and {tags[-1]}"


def combined_call(
    found: Sequence[Circuit], groups: Sequence[tuple[Open, StageCall]], unsaid: bool
) -> StageCall:
    """The stage's call from the calls of its groups. ``unsaid``: a run names no ports."""
    checks = [_group_check(ports_in_words(found, key), key, call) for key, call in groups]
    if unsaid:
        told = Call(
            verdict=Verdict.WAIT,
            because="Of one pull or decay nobody said which ports were open: it proves none.",
            do_next="Say which ports were open to the rig.",
        )
        checks.append(Check(id="ports", label="Ports open", call=told))
    calls = [call for _, call in groups]
    open_ = [c for c in calls if c.call.verdict is not Verdict.HOLDS]
    worst_call = deciding([c.call for c in calls])
    worst = next(c for c in calls if c.call is worst_call)
    done = [c.progress for c in calls if c.progress is not None]
    shared = set.intersection(*(set(c.findings) for c in open_)) if open_ else set[str]()
    return stage_call(
        checks,
        f"Every port is proven: {len(found)} of {len(found)}.",
        summary=f"{len(calls) - len(open_)} of {len(calls)} proven" if len(calls) > 1 else "",
        started=any(c.started for c in calls),
        governed_by=worst.governed_by,
        working=worst.working,
        findings=sorted(shared),
        progress=min(done) if len(done) == len(calls) else None,
    )


def _group_check(name: str, key: Open, call: StageCall) -> Check:
    """One group of ports as a check of the stage, with what its decay measured."""
    decay = next((c for c in call.checks if c.id == "decay"), None)
    said, decides = call.call, deciding_check(call)
    own = Place(stage="evacuate", part=",".join(key), id=decides.id if decides else "")
    mend = decides.mend if decides is not None and decides.mend is not None else own
    about = Call(verdict=said.verdict, because=f"{name}: {said.because}", do_next=said.do_next)
    if decay is None:
        return Check(id=f"ports-{'-'.join(key)}", label=name, call=about, mend=mend)
    named = {"id": f"ports-{'-'.join(key)}", "label": name, "call": about, "mend": mend}
    return decay.model_copy(update=named)
