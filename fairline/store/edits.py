"""The history of what is entered: what another changed meanwhile, and taking an edit back.

Each save of an entry leaves its steps (``core/change``). With them a page that was opened before
another person's save is put together with it field by field, and whoever edited takes her own
edit back without anybody else's.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any
from uuid import uuid4

from sqlalchemy import ColumnElement, and_, delete, func, or_, select, update
from sqlalchemy.orm import Session

from fairline.core.change import Step, difference, in_words, merge
from fairline.store.clock import now
from fairline.store.models import EditRow

MOST = 500  # edits kept of a stage
IN_ONE_GO = 40  # edits that typing or dragging can have left and that go together
BUNCH = "bunch"
ONE_GO = timedelta(seconds=5)  # typing and dragging save many times: they are one edit
PLANNED = ("survey", "route")  # the stages on which machines and tubes are planned
EQUIPMENT = "equipment"  # the job's own copies of sheets, kept as if they were a stage


@dataclass(frozen=True)
class Editing:
    """Who saves an entry: the opened page, the version it was made from, its how-manieth save."""

    version: int = 0
    editor: str = ""
    turn: int = 0
    by: str = ""
    takes_back: bool = False


@dataclass(frozen=True)
class Undo:
    """What can be taken back, or done again: what it was, and the bunches it is."""

    words: str
    bunches: tuple[str, ...]


def begin_bunch(session: Session) -> None:
    session.info[BUNCH] = uuid4().hex


def log(
    session: Session, job_id: int, stage: str, version: int, ends: tuple[Any, Any], edit: Editing
) -> None:
    """Leave the steps from one document to the next."""
    steps = difference(*ends)
    if not steps:
        return
    session.add(
        EditRow(
            job_id=job_id,
            stage=stage,
            version=version,
            bunch=session.info.setdefault(BUNCH, uuid4().hex),
            editor=edit.editor[:40],
            turn=edit.turn,
            by=edit.by,
            at=now(),
            steps=[step.stored() for step in steps],
            takes_back=edit.takes_back,
        )
    )
    if version and version % 50 == 0:
        old = (EditRow.job_id == job_id, EditRow.stage == stage, EditRow.version <= version - MOST)
        session.execute(delete(EditRow).where(*old))


def since(session: Session, job_id: int, stage: str, version: int) -> list[EditRow]:
    """The edits after a version of a stage, the newest first."""
    found = session.scalars(
        select(EditRow)
        .where(EditRow.job_id == job_id, EditRow.stage == stage, EditRow.version > version)
        .order_by(EditRow.version.desc(), EditRow.id.desc())
    )
    return list(found)


def by_others(session: Session, job_id: int, stage: str, edit: Editing) -> bool:
    """Whether another page saved a stage after the version that an edit was made from."""
    found = session.scalar(
        select(EditRow.id)
        .where(EditRow.job_id == job_id, EditRow.stage == stage)
        .where(EditRow.version > edit.version, EditRow.editor != edit.editor)
        .limit(1)
    )
    return found is not None


def steps_of(edit: EditRow) -> list[Step]:
    return [Step.read(kept) for kept in edit.steps]


def back(document: Any, edit: EditRow) -> Any:
    """The document without one edit; what was changed again since stays."""
    return merge(document, [s.back for s in reversed(steps_of(edit))], document)[0]


def overtaken(session: Session, job_id: int, stage: str, edit: Editing) -> bool:
    """Whether a later save of the same page came in before this one."""
    if not edit.editor:
        return False
    newest = session.scalar(
        select(func.max(EditRow.turn)).where(
            EditRow.job_id == job_id, EditRow.stage == stage, EditRow.editor == edit.editor
        )
    )
    return newest is not None and edit.turn < newest


def hand_of(editor: str) -> str:
    """The browser an editor's token came from."""
    return editor.partition(".")[0]


def _own(job_id: int, hand: str) -> tuple[Any, ...]:
    return EditRow.job_id == job_id, EditRow.editor.startswith(f"{hand}.", autoescape=True)


def undoable(
    session: Session, job_id: int, stage: str, hand: str, most: int = IN_ONE_GO
) -> Undo | None:
    """The newest edit of a stage by this browser that still stands.

    With what was typed or dragged on just before it, of at most ``most`` edits: a page that only
    names it asks for one.
    """
    if not hand:
        return None
    found = session.scalars(
        select(EditRow)
        .where(
            *_own(job_id, hand),
            _shown_on(job_id, stage),
            EditRow.takes_back.is_(False),
            EditRow.taken_by == "",
        )
        .order_by(EditRow.id.desc())
        .limit(2 * most)
    ).all()
    if not found:
        return None
    newest = [e for e in found if e.bunch == found[0].bunch]
    entered = [e for e in newest if e.stage == stage]
    if not entered:
        return Undo(in_words(steps_of(found[0])), (found[0].bunch,))
    rest = [e for e in found if e.stage == stage and e not in entered]
    together = _in_one_go(session, [*entered, *rest][:most])
    steps = [s for edit in together for s in steps_of(edit)]
    return Undo(in_words(steps), tuple(e.bunch for e in together))


def _shown_on(job_id: int, stage: str) -> ColumnElement[bool]:
    """The edits that a stage's page takes back: its own, and those of sheets and machines alone."""
    others = select(EditRow.bunch).where(
        EditRow.job_id == job_id, EditRow.stage.not_in((stage, EQUIPMENT))
    )
    if stage not in PLANNED:
        return EditRow.stage == stage
    alone = and_(EditRow.stage == EQUIPMENT, EditRow.bunch.not_in(others))
    return or_(EditRow.stage == stage, alone)


def _in_one_go(session: Session, found: Sequence[EditRow]) -> list[EditRow]:
    """The newest edit with those just before it that typed on, or dragged on, at the same place."""
    alone = _alone(session, found)
    together = [found[0]]
    for edit in found[1:]:
        newer = together[-1]
        same = [s.path for s in steps_of(edit)] == [s.path for s in steps_of(newer)]
        same &= not any(
            isinstance(end, list) for s in steps_of(edit) for end in (s.before, s.after)
        )
        one_hand = edit.editor == newer.editor and newer.at - edit.at <= ONE_GO
        if not (same and one_hand and {edit.bunch, newer.bunch} <= alone):
            break
        together.append(edit)
    return together


def _alone(session: Session, found: Sequence[EditRow]) -> set[str]:
    """The bunches of some edits that changed nothing else."""
    counted = (
        select(EditRow.bunch)
        .where(EditRow.bunch.in_({e.bunch for e in found}))
        .group_by(EditRow.bunch)
        .having(func.count() == 1)
    )
    return set(session.scalars(counted))


def redoable(session: Session, job_id: int, stage: str, hand: str) -> Undo | None:
    """What this browser took back last, while it edited nothing since."""
    if not hand:
        return None
    newest = session.scalars(
        select(EditRow)
        .where(*_own(job_id, hand), _shown_on(job_id, stage), EditRow.taken_by == "")
        .order_by(EditRow.id.desc())
        .limit(1)
    ).first()
    if newest is None or not newest.takes_back:
        return None
    return Undo(in_words(steps_of(newest)), (newest.bunch,))


def of_bunches(session: Session, job_id: int, bunches: Sequence[str]) -> list[EditRow]:
    """The edits of some bunches, the newest first."""
    found = session.scalars(
        select(EditRow)
        .where(EditRow.job_id == job_id, EditRow.bunch.in_(bunches))
        .order_by(EditRow.id.desc())
    )
    return list(found)


def take_over(session: Session, job_id: int, bunches: Sequence[str]) -> None:
    """These bunches are taken back by the change under way; what they took back stands again."""
    mine = session.info[BUNCH]
    taken = (EditRow.job_id == job_id, EditRow.taken_by.in_(bunches))
    session.execute(update(EditRow).where(*taken).values(taken_by=""))
    session.execute(update(EditRow).where(EditRow.bunch.in_(bunches)).values(taken_by=mine))


def settled(session: Session) -> None:
    """The change under way did something again: it is neither taken back nor done again itself."""
    mine = session.info[BUNCH]
    session.execute(update(EditRow).where(EditRow.bunch == mine).values(taken_by=mine))
