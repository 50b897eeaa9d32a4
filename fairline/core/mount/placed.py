"""What is worked out of one place: where its piece stands, where the nearest good place is."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from fairline.core.calc.head_position import moved
from fairline.core.call import Answer, Call, Check, Step
from fairline.core.mount.throw import Reach

SLACK_M = 0.001  # a proposed place keeps a pencil line's width from every limit; our own choice


Asked = TypeVar("Asked")
Result = TypeVar("Result", bound=Any)


@dataclass(frozen=True, eq=False)
class Placed(Generic[Asked, Result]):
    """One place of Mount: ``part`` is its key in the entry, ``zone`` its head's, blank in the yard.

    ``asked`` and ``answer`` are None while a size or the place is not known. ``reach``: how far a
    head's air goes, where something stands in front of it.
    """

    part: str
    zone: str
    asked: Asked | None
    answer: Answer[Result] | None
    checks: tuple[Check, ...]
    steps: tuple[Step, ...] = ()
    other_outlets: tuple[str, ...] = ()
    reach: Reach | None = None

    @property
    def result(self) -> Result | None:
        return self.answer.result if self.answer else None


def with_nearest(
    here: Answer[Result],
    roomy: Asked | None,
    work: Callable[[Asked], Answer[Result]],
    piece: str,
    *axis: str,
) -> Answer[Result]:
    """An answer with the nearest place that keeps a pencil's width, and the words to go there.

    ``roomy`` is the same question with that width; without such a place ``here`` as it is.
    """
    better = work(roomy).result.nearest if roomy is not None else None
    if better is None:
        return here
    call = Call(
        verdict=here.call.verdict,
        because=here.call.because,
        do_next=f"Move {piece} {moved(better, *axis)}: there everything holds.",
    )
    result = here.result.model_copy(update={"nearest": better})
    return here.model_copy(update={"result": result, "call": call})
