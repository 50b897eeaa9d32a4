"""The cut plan: runs from kits, rolls and off-cuts with the fewest joins, then the least bought.

A run joined from k cuts has k − 1 joins. Stock pieces and the runs cut from them hang together in
groups; a group of b pieces needs b − 1 joins and no fewer, and holds its runs where the pieces'
lengths, less a loss for each join, reach. So the search goes over groups: the longest run that is
left, the pieces it takes, and what else goes into them. Only fillings to which nothing can be added
need a look: a run laid into an open piece never makes the rest longer.
"""

from collections.abc import Iterator
from itertools import combinations_with_replacement
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Step, Verdict
from fairline.core.check import plural
from fairline.core.errors import FairLineError
from fairline.core.quantities import both

MICRO = 1_000_000  # lengths are compared in whole micrometres
LOOKS = 120_000  # how many fillings are looked at before the best so far has to do
ENDLESS_RUNS = 10  # up to here every grouping from endless kinds is compared
EXACT_RUNS = 24  # more are laid by the simple rule alone
SHORTEST_CUT_M = 0.3  # a joined run is not given a shorter end where there is slack; our choice


class CutRun(Request):
    id: Annotated[str, Field(min_length=1, max_length=80)]
    length_m: Annotated[float, Field(gt=0, le=10_000)]


class StockItem(Request):
    """``count`` None: as many as needed."""

    id: Annotated[str, Field(min_length=1, max_length=80)]
    length_m: Annotated[float, Field(gt=0, le=10_000)]
    count: Annotated[int, Field(ge=0, le=10_000)] | None = None


class CutPlanRequest(Request):
    """``joint_loss_m`` is the tube that each join takes up, in m."""

    runs: Annotated[list[CutRun], Field(min_length=1, max_length=60)]
    stock: Annotated[list[StockItem], Field(max_length=60)]
    joint_loss_m: Annotated[float, Field(ge=0, le=10)] = 0.0
    allow_joints: bool = False

    @model_validator(mode="after")
    def _ids_are_single(self) -> "CutPlanRequest":
        for name, rows in (("runs", self.runs), ("stock", self.stock)):
            ids = [row.id for row in rows]
            if len(set(ids)) != len(ids):
                raise ValueError(f"{name}: an id stands twice")
        return self


class Cut(Frozen):
    run_id: str
    length_m: float


class Piece(Frozen):
    """One piece of stock, the cuts made from it in order, and what is left of it."""

    stock_id: str
    cuts: tuple[Cut, ...]
    left_m: float


class CutPlanResult(Frozen):
    """``proven``: no plan is better; False where the search was given up."""

    pieces: tuple[Piece, ...]
    joints: int
    bought_m: float
    waste_m: float
    proven: bool = True


Bins = tuple[int, ...]  # kinds of stock, by their place in the list
Group = tuple[tuple[int, ...], Bins]  # runs, and the pieces they are cut from
Plan = tuple[int, int, tuple[Group, ...]]  # bought, pieces, groups


class _SearchLimitError(FairLineError):
    pass


def _better(found: Plan | None, after: Plan | None, group: Group, bought: int) -> Plan | None:
    """The plan of a group of pieces and what comes after it, where it is better than ``found``."""
    if after is None:
        return found
    plan = (bought + after[0], len(group[1]) + after[1], (group, *after[2]))
    return plan if found is None or plan[:2] < found[:2] else found


class _Search:
    """The best plan with at most so many joins; runs are ordered from the longest down."""

    def __init__(self, runs: list[int], kinds: list[int], loss: int) -> None:
        self.runs, self.kinds, self.loss = runs, kinds, loss
        self.looks = 0
        self.known: dict[tuple[int, tuple[int, ...], int], Plan | None] = {}

    def best(self, left: int, counts: tuple[int, ...], joins: int) -> Plan | None:
        """The least bought, then fewest pieces, for the runs of the mask ``left``; or None."""
        if not left:
            return 0, 0, ()
        key = (left, counts, joins)
        if key in self.known:
            return self.known[key]
        found: Plan | None = None
        first = (left & -left).bit_length() - 1
        rest = [i for i in range(first + 1, len(self.runs)) if left >> i & 1]
        least = sum(self.runs[i] for i in rest) + self.runs[first]
        for bins, bought, room in self._bins(counts, joins, self.runs[first]):
            if found and (bought, len(bins)) >= found[:2]:
                continue
            for filling in self._fillings(rest, room - self.runs[first]):
                self._look()
                taken = (first, *filling)
                still = least - sum(self.runs[i] for i in taken)
                if found and (bought + still, len(bins) + bool(still)) >= found[:2]:
                    continue
                mask = left & ~sum(1 << i for i in taken)
                after = self.best(mask, _less(counts, bins), joins - len(bins) + 1)
                found = _better(found, after, (taken, bins), bought)
        self.known[key] = found
        return found

    def _look(self) -> None:
        """Count a look; raises _GivenUpError where there were too many."""
        self.looks += 1
        if self.looks > LOOKS:
            raise _SearchLimitError

    def _bins(
        self, counts: tuple[int, ...], joins: int, need: int
    ) -> Iterator[tuple[Bins, int, int]]:
        """Sets of pieces that reach ``need``, with what they measure and hold; shortest first."""
        there = [k for k, count in enumerate(counts) if count]
        found = []
        for size in range(1, joins + 2):
            for bins in combinations_with_replacement(there, size):
                self._look()
                if any(counts[k] >= 0 and bins.count(k) > counts[k] for k in set(bins)):
                    continue
                bought = sum(self.kinds[k] for k in bins)
                room = bought - self.loss * (size - 1)
                if room >= need:
                    found.append((bought, size, bins, room))
        for bought, _, bins, room in sorted(found):
            yield bins, bought, room

    def _fillings(self, rest: list[int], room: int) -> Iterator[tuple[int, ...]]:
        """Every choice of ``rest`` that fits and to which nothing can be added."""

        def fill(at: int, room: int, out: int, taken: tuple[int, ...]) -> Iterator[tuple[int, ...]]:
            if at == len(rest):
                if out > room:  # the shortest run left out does not fit
                    yield taken
                return
            run = self.runs[rest[at]]
            if run <= room:
                yield from fill(at + 1, room - run, out, (*taken, rest[at]))
                # of runs of one length the first are taken: the others are the same plan
                while at + 1 < len(rest) and self.runs[rest[at + 1]] == run:
                    at += 1
                yield from fill(at + 1, room, min(out, run), taken)
            else:
                yield from fill(at + 1, room, min(out, run), taken)

        yield from fill(0, room, 1 << 62, ())


class _UnlimitedStock:
    """The best plan from kinds of which there are as many as needed: group by group, exactly.

    Each group takes the fewest pieces that reach, and of those sets the shortest; the best
    grouping of every set of runs is built from the best groupings of its parts.
    """

    def __init__(self, runs: list[int], kinds: list[int], loss: int) -> None:
        self.runs, self.loss = runs, loss
        self.kinds = sorted(range(len(kinds)), key=lambda k: -kinds[k])
        self.lengths = kinds
        self.longest = kinds[self.kinds[0]]
        self.spared: dict[tuple[int, int, int], tuple[int, Bins]] = {}

    def best(self) -> Plan:
        count = len(self.runs)
        sums = [0] * (1 << count)
        for mask in range(1, 1 << count):
            low = mask & -mask
            sums[mask] = sums[mask ^ low] + self.runs[low.bit_length() - 1]
        groups: list[tuple[int, int, Bins]] = [(0, 0, ())]
        groups += [self._group(sums[mask]) for mask in range(1, 1 << count)]
        costs: list[tuple[int, int, int]] = [(0, 0, 0)] * (1 << count)
        choice = [0] * (1 << count)
        for mask in range(1, 1 << count):
            low = mask & -mask
            rest = part = mask ^ low
            top: tuple[int, int, int] | None = None
            while True:
                group, after = groups[part | low], costs[rest ^ part]
                cost = (group[0] - 1 + after[0], group[1] + after[1], group[0] + after[2])
                if top is None or cost < top:
                    top, choice[mask] = cost, part | low
                if not part:
                    break
                part = (part - 1) & rest
            costs[mask] = top
        found, mask = [], (1 << count) - 1
        while mask:
            group_of = choice[mask]
            taken = tuple(i for i in range(count) if group_of >> i & 1)
            found.append((taken, groups[group_of][2]))
            mask ^= group_of
        return costs[-1][1], costs[-1][2], tuple(found)

    def _group(self, need: int) -> tuple[int, int, Bins]:
        """How many pieces reach ``need``, what they measure, and which they are."""
        fewest = max(1, -(-(need - self.loss) // (self.longest - self.loss)))
        room = fewest * self.longest - self.loss * (fewest - 1) - need
        spared, shorter = self._spare(room, 1, fewest)
        bins = (self.kinds[0],) * (fewest - len(shorter)) + shorter
        return fewest, fewest * self.longest - spared, bins

    def _spare(self, room: int, at: int, left: int) -> tuple[int, Bins]:
        """What shorter pieces in place of the longest can spare, and which those are."""
        if at == len(self.kinds) or not left:
            return 0, ()
        key = (room, at, left)
        if key not in self.spared:
            by = self.longest - self.lengths[self.kinds[at]]
            most = min(left, room // by if by else 0)
            best: tuple[int, Bins] = (-1, ())
            for n in range(most, -1, -1):
                more, bins = self._spare(room - n * by, at + 1, left - n)
                if n * by + more > best[0]:
                    best = (n * by + more, (self.kinds[at],) * n + bins)
            self.spared[key] = best
        return self.spared[key]


def _less(counts: tuple[int, ...], bins: Bins) -> tuple[int, ...]:
    """What is left of the stock; −1 stands for as many as needed."""
    return tuple(c if c < 0 else c - bins.count(k) for k, c in enumerate(counts))


def _fewest(run: int, kinds: list[int], counts: tuple[int, ...], loss: int) -> int | None:
    """How many pieces a run needs at least; None where the stock does not reach."""
    room, used = loss, 0
    for k in sorted(range(len(kinds)), key=lambda k: -kinds[k]):
        if kinds[k] <= loss:
            continue
        left = counts[k]
        while left and room < run + loss:
            room += kinds[k] - loss
            used += 1
            left -= 1
            if room >= run + loss:
                return used
        if room >= run + loss:
            return used
    return used if room >= run + loss and used else None


def _taken_up(
    run: int, kinds: list[int], counts: tuple[int, ...], loss: int
) -> tuple[Bins, int] | None:
    """Pieces joined until a run fits: the shortest that is enough, else the longest there is."""
    bins, room = Bins(), loss
    while room < run + loss:
        there = [k for k, c in enumerate(counts) if c and kinds[k] > loss]
        if not there:
            return None
        enough = [k for k in there if room + kinds[k] - loss >= run + loss]
        k = min(enough, key=kinds.__getitem__) if enough else max(there, key=kinds.__getitem__)
        bins, room, counts = (*bins, k), room + kinds[k] - loss, _less(counts, (k,))
    return bins, room


def _simply(
    runs: list[int], kinds: list[int], counts: tuple[int, ...], loss: int, joins: bool
) -> Plan | None:
    """The simple rule: the longest run first, into the tightest piece that is open."""
    open_: list[tuple[list[int], Bins, int]] = []
    for i, run in enumerate(runs):
        fits = [n for n, (_, _, room) in enumerate(open_) if room >= run]
        if fits:
            n = min(fits, key=lambda n: open_[n][2])
            taken, bins, room = open_[n]
            open_[n] = ([*taken, i], bins, room - run)
            continue
        taken_up = _taken_up(run, kinds, counts, loss)
        if taken_up is None or (len(taken_up[0]) > 1 and not joins):
            return None
        bins, room = taken_up
        counts = _less(counts, bins)
        open_.append(([i], bins, room - loss - run))
    bought = sum(kinds[k] for _, bins, _ in open_ for k in bins)
    pieces = sum(len(bins) for _, bins, _ in open_)
    return bought, pieces, tuple((tuple(taken), bins) for taken, bins, _ in open_)


def cut_plan(request: CutPlanRequest) -> Answer[CutPlanResult]:
    """Runs cut from stock: the fewest joins, then the least bought length, then fewest pieces.

    Exact for what an ordinary job has; ``proven`` says so. Where the stock does not reach, the
    call is ``short`` with ``stock_too_short``. Lengths in m.

    >>> asked = {"runs": [{"id": "A", "length_m": 6.2}, {"id": "B", "length_m": 7.1}],
    ...          "stock": [{"id": "roll", "length_m": 15.24}]}
    >>> round(cut_plan(CutPlanRequest.model_validate(asked)).result.waste_m, 2)
    1.94
    """
    runs = sorted(request.runs, key=lambda r: (-r.length_m, r.id))
    stock = sorted(request.stock, key=lambda s: (s.length_m, s.id))
    lengths = [round(r.length_m * MICRO) for r in runs]
    kinds = [round(s.length_m * MICRO) for s in stock]
    counts = tuple(-1 if s.count is None else s.count for s in stock)
    loss = round(request.joint_loss_m * MICRO)
    plan, proven = _plan(lengths, kinds, counts, loss, request.allow_joints)
    if plan is None:
        return _too_short(request)
    pieces: list[Piece] = []
    for taken, bins in plan[2]:
        pieces += _cut(taken, bins, runs, stock, request.joint_loss_m)
    joints = sum(len(bins) - 1 for _, bins in plan[2])
    bought = plan[0] / MICRO
    used = sum(c.length_m for p in pieces for c in p.cuts)
    words = plural(joints, "join") if joints else "no join"
    findings = (("joined",) if joints else ()) + (() if proven else ("not_proven",))
    return Answer[CutPlanResult](
        call=Call(
            verdict=Verdict.HOLDS if proven else Verdict.WATCH,
            because=f"{plural(len(runs), 'run')} from {plural(len(pieces), 'piece')} with {words}; "
            f"{both(bought, 'length')} of tube, {both(bought - used, 'length')} left over."
            + ("" if proven else " A better plan may exist."),
            do_next="Plan where each join can be reached." if joints else None,
        ),
        working=(
            Step(
                step="tube taken",
                expression=" + ".join(f"{_length(stock, p):.3f}" for p in pieces[:12])
                + (" + …" if len(pieces) > 12 else ""),
                value=bought,
                unit="m",
            ),
            Step(
                step="cut from it",
                expression=f"Σ runs + {plural(joints, 'join')} · {request.joint_loss_m:.3f}",
                value=used,
                unit="m",
            ),
            Step(
                step="left over",
                expression=f"{bought:.3f} − {used:.3f}",
                value=bought - used,
                unit="m",
            ),
        ),
        findings=findings,
        result=CutPlanResult(
            pieces=tuple(pieces),
            joints=joints,
            bought_m=bought,
            waste_m=max(bought - used, 0.0),
            proven=proven,
        ),
    )


def _plan(
    lengths: list[int], kinds: list[int], counts: tuple[int, ...], loss: int, joins: bool
) -> tuple[Plan | None, bool]:
    """The best plan and whether it is proven; (None, True) where there is none."""
    fewest = [_fewest(run, kinds, counts, loss) for run in lengths]
    if None in fewest or (not joins and any(n != 1 for n in fewest)):
        return None, True
    at_least = sum((n or 1) - 1 for n in fewest)
    pieces = sum(c if c >= 0 else 4 * len(lengths) + at_least for c in counts)
    if joins and at_least and all(c < 0 for c in counts) and len(lengths) <= ENDLESS_RUNS:
        return _UnlimitedStock(lengths, kinds, loss).best(), True
    search = _Search(lengths, kinds, loss)
    simple = _simply(lengths, kinds, counts, loss, joins)
    try:
        if len(lengths) > EXACT_RUNS:
            raise _SearchLimitError
        for most in range(at_least, max(pieces, 1) if joins else 1):
            found = search.best((1 << len(lengths)) - 1, counts, most)
            if found is not None:
                return found, True
    except _SearchLimitError:
        return simple, simple is None
    return None, True


def _length(stock: list[StockItem], piece: Piece) -> float:
    return next(s.length_m for s in stock if s.id == piece.stock_id)


def _cut(
    taken: tuple[int, ...], bins: Bins, runs: list[CutRun], stock: list[StockItem], loss_m: float
) -> list[Piece]:
    """The cuts of one group: runs laid along its pieces, joined where a piece ends."""
    pieces: list[Piece] = []
    need = [(runs[i].id, runs[i].length_m) for i in sorted(taken)]
    order = sorted(bins, key=lambda k: -stock[k].length_m)
    slack = sum(stock[k].length_m for k in bins) - loss_m * (len(bins) - 1)
    slack -= sum(length for _, length in need)
    for n, k in enumerate(order, 1):
        room, cuts = stock[k].length_m, []
        while need:
            run_id, length = need[0]
            if length <= room + 1e-9:
                cuts.append(Cut(run_id=run_id, length_m=min(length, room)))
                room -= length
                need.pop(0)
                continue
            if n == len(order) or room <= loss_m + 1e-9:
                break
            back = min(slack, max(0.0, SHORTEST_CUT_M - (length + loss_m - room)))
            first = room - back
            if first <= loss_m + 1e-9:
                break
            slack -= back
            cuts.append(Cut(run_id=run_id, length_m=first))
            need[0] = (run_id, length - first + loss_m)
            room = back
            break
        pieces.append(Piece(stock_id=stock[k].id, cuts=tuple(cuts), left_m=max(room, 0.0)))
    return pieces


def _too_short(request: CutPlanRequest) -> Answer[CutPlanResult]:
    longest = max(request.runs, key=lambda r: r.length_m)
    there = [s.length_m for s in request.stock if s.count != 0]
    said = f"the longest piece is {both(max(there), 'length')}" if there else "there is none"
    return Answer[CutPlanResult](
        call=Call(
            verdict=Verdict.SHORT,
            because=f"The stock does not reach: the longest run, {longest.id}, takes "
            f"{both(longest.length_m, 'length')}, {said}.",
            do_next=f"Bring a piece of at least {both(longest.length_m, 'length')}"
            + ("." if request.allow_joints else ", or allow joins."),
        ),
        findings=("stock_too_short",),
        result=CutPlanResult(pieces=(), joints=0, bought_m=0.0, waste_m=0.0),
    )
