"""The cut plan of a job: its runs from what is on the van, by tube size, in pairs or apart."""

from collections import Counter
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field, ValidationInfo, field_validator

from fairline.core.calc.cut_plan import (
    CutPlanRequest,
    CutPlanResult,
    CutRun,
    StockItem,
    cut_plan,
)
from fairline.core.call import Answer, Call, Check, Frozen, Verdict
from fairline.core.check import fault_call
from fairline.core.entry import Count, DistanceM, Entry, Record, Text, TubeM, rows
from fairline.core.physics.tubing import same_size, size_label
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.route.entry import RouteEntry
from fairline.core.route.piping import Piping, Stretch
from fairline.core.route.traps import Trap, trap_m

KEEP_M = 1.0  # off-cuts from here on go back on the van; our own choice


class StockLine(Entry):
    """Tube on the van: a kit, roll or off-cut of a pair, or of a single tube.

    A single tube has only its ``gas_od_m`` or ``liquid_od_m``. A blank ``count``: bought as needed.
    """

    kind: Literal["kit", "roll", "off-cut"] = "roll"
    name: Text = ""
    liquid_od_m: TubeM = None
    gas_od_m: TubeM = None
    length_m: Annotated[DistanceM, Field(validate_default=True)] = None
    count: Count = None

    @field_validator("length_m")
    @classmethod
    def _has_length(cls, value: float | None, info: ValidationInfo) -> float | None:
        if not value:
            raise ValueError("how long is it?")
        if info.data.get("liquid_od_m") is None and info.data.get("gas_od_m") is None:
            raise ValueError("give its liquid tube, its gas tube, or both")
        return value

    def fits(self, liquid_mm: float | None, gas_mm: float | None) -> bool:
        """Whether it is tube of just these sizes; None: no such tube in it."""
        return _near(self.liquid_od_m, liquid_mm) and _near(self.gas_od_m, gas_mm)


class VanStock(Entry):
    """What is on the van."""

    lines: Annotated[tuple[StockLine, ...], rows(StockLine), Field(max_length=60)] = ()


class TubeCut(Entry):
    """A piece of stock as it was cut: what it was, its tubes, its cuts by run, what was left."""

    name: Text = ""
    liquid_od_m: TubeM = None
    gas_od_m: TubeM = None
    cuts: tuple[tuple[Text, float], ...] = ()
    left_m: DistanceM = None


class Cutting(Record):
    """The cut plan as it was carried out: tube taken off the van, off-cuts put back."""

    kind: Literal["cutting"] = "cutting"
    pieces: Annotated[tuple[TubeCut, ...], Field(max_length=400)] = ()


class SizePlan(Frozen):
    """The plan of one tube size: ``liquid_mm`` and ``gas_mm`` where both are cut together."""

    liquid_mm: float | None
    gas_mm: float | None
    stock: tuple[int, ...]  # of the van's lines, by place: what the plan could draw on
    answer: Answer[CutPlanResult]

    @property
    def words(self) -> str:
        sizes = [d for d in (self.liquid_mm, self.gas_mm) if d is not None]
        return " + ".join(size_label(d) for d in sizes)


def _near(od_m: float | None, mm: float | None) -> bool:
    if od_m is None or mm is None:
        return od_m is None and mm is None
    return same_size(od_m * 1000, mm)


def _loss_m(mm: float | None, rules: Rules) -> float:
    """Tube that a join takes up: a swage about as deep as the tube is wide; none in a union."""
    return 0.0 if rules.school("joins").name == "union" or mm is None else mm / 1000


def plans(
    entry: RouteEntry, pipes: Piping, bent: Sequence[Trap], van: VanStock, rules: Rules
) -> list[SizePlan]:
    """A plan for every size of tube on the job. Runs of kits are chosen, never cut."""
    groups: dict[tuple[float | None, float | None], list[Stretch]] = {}
    for stretch in pipes.stretches:
        if stretch.cut_m is None:
            continue
        liquid, gas = stretch.tube.liquid_mm, stretch.tube.gas_mm
        sizes = [(liquid, gas)] if entry.cut_as == "pair" else [(liquid, None), (None, gas)]
        for size in sizes:
            if size != (None, None):
                groups.setdefault(size, []).append(stretch)
    joins = entry.joins_allowed == "yes" or (
        entry.joins_allowed is None and rules.school("joins").name != "single"
    )
    found = []
    for (liquid, gas), stretches in sorted(groups.items(), key=lambda g: str(g[0])):
        lines = [n for n, line in enumerate(van.lines) if line.fits(liquid, gas)]
        request = CutPlanRequest(
            runs=[
                CutRun(
                    id=s.id,
                    length_m=(s.cut_m or 0.0) + (trap_m(s.id, pipes, bent) if gas else 0.0),
                )
                for s in stretches
            ],
            stock=[
                StockItem(
                    id=str(n), length_m=van.lines[n].length_m or 0.0, count=van.lines[n].count
                )
                for n in lines
            ],
            joint_loss_m=max(_loss_m(liquid, rules), _loss_m(gas, rules)),
            allow_joints=joins,
        )
        found.append(
            SizePlan(liquid_mm=liquid, gas_mm=gas, stock=tuple(lines), answer=cut_plan(request))
        )
    return found


def pieces_of(found: list[SizePlan], van: VanStock) -> tuple[TubeCut, ...]:
    """The plans as what is cut from what."""
    return tuple(
        TubeCut(
            name=taken_words(van, piece.stock_id),
            liquid_od_m=plan.liquid_mm / 1000 if plan.liquid_mm else None,
            gas_od_m=plan.gas_mm / 1000 if plan.gas_mm else None,
            cuts=tuple((c.run_id, c.length_m) for c in piece.cuts),
            left_m=piece.left_m,
        )
        for plan in found
        for piece in plan.answer.result.pieces
    )


def joins_of(pieces: tuple[TubeCut, ...]) -> dict[str, int]:
    """How often each run's tube is joined, by run and line (``A.gas``)."""
    counts = Counter(
        f"{run}.{line}"
        for piece in pieces
        for run, _ in piece.cuts
        for line, od in (("liquid", piece.liquid_od_m), ("gas", piece.gas_od_m))
        if od is not None
    )
    return {key: n - 1 for key, n in counts.items() if n > 1}


def _put_back(back: list[StockLine], plan: SizePlan, line: StockLine, left_m: float) -> None:
    """One more off-cut of a line: counted with those of its size and length, or on its own."""
    for n, old in enumerate(back):
        same_length = abs((old.length_m or 0.0) - left_m) < 1e-3
        if same_length and old.fits(plan.liquid_mm, plan.gas_mm):
            back[n] = old.model_copy(update={"count": (old.count or 0) + 1})
            return
    back.append(
        StockLine(
            kind="off-cut",
            name=f"off-cut of {line.name}".strip()[:200],
            liquid_od_m=line.liquid_od_m,
            gas_od_m=line.gas_od_m,
            length_m=left_m,
            count=1,
        )
    )


def cut_from(van: VanStock, found: list[SizePlan], keep_m: float) -> VanStock:
    """The van after the plan: pieces taken off it, off-cuts of at least ``keep_m`` put back."""
    lines = list(van.lines)
    back: list[StockLine] = []
    for plan in found:
        for piece in plan.answer.result.pieces:
            at = int(piece.stock_id)
            line = lines[at]
            if line.count is not None:
                lines[at] = line.model_copy(update={"count": line.count - 1})
            if piece.left_m >= keep_m:
                _put_back(back, plan, line, piece.left_m)
    left = [x for x in lines if x.count != 0]
    return VanStock(lines=(*left, *back)[:60])


def join_checks(
    entry: RouteEntry, pipes: Piping, joins: dict[str, int], rules: Rules
) -> list[Check]:
    """Every run that is joined: how that is made, and whether it can be reached."""
    done = []
    school = rules.school("joins")
    for run in sorted({key.split(".")[0] for key in joins}):
        stretch = pipes.get(run)
        hidden = stretch is not None and any(leg.setting == "wall" for leg in stretch.legs)
        reach = entry.run(run).join_access
        how = "" if school.name == "single" else f": {school.label}"
        if school.name == "union" and hidden and reach != "yes":
            call = fault_call(
                f"Run {run} is joined by a flared union and passes a wall: one hidden there is "
                "refused.",
                "Braze the join, use one piece, or place the union where it can be reached.",
            )
        elif reach != "yes":
            call = Call(
                verdict=Verdict.WATCH,
                because=f"Run {run} is joined on its way{how}.",
                do_next="Place the join where it can be reached, and say so.",
            )
        else:
            call = Call(
                verdict=Verdict.HOLDS, because=f"Run {run} is joined on its way, within reach{how}."
            )
        done.append(
            Check(id=f"join_{run}", label=f"Join of run {run}", call=call, part=f"runs.{run}")
        )
    return done


def taken_words(van: VanStock, stock_id: str) -> str:
    """What a piece of stock is called."""
    line = van.lines[int(stock_id)]
    return line.name or f"{line.kind} of {both(line.length_m or 0.0, 'length')}"
