"""The commands for the data: backup, restore, verify, another database, the board, the clock."""

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from fairline.command import EXIT_FAILED, CommandError, alone, openable, settings_of

if TYPE_CHECKING:
    from fairline.settings import Settings
    from fairline.store.seals import Verified


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    for name, run, about in (
        ("backup", _backup, "write a backup of all jobs and pictures, while the server runs too"),
        ("restore", _restore, "put a backup in the place of what is there; stop the server first"),
        ("verify", _verify, "check a backup or a job's file: intact, or where it was changed"),
    ):
        command = commands.add_parser(name, help=about)
        command.add_argument("file", type=Path, help="the backup's file")
        command.add_argument("--data", type=Path, help="folder of the data")
        command.set_defaults(run=run)
    move = commands.add_parser("move", help="take everything over into another, empty database")
    move.add_argument("--to", required=True, help="postgresql://... or sqlite:///file.db")
    move.set_defaults(run=_move)
    board = commands.add_parser("board", help="make anew what the board shows of every job")
    board.set_defaults(run=_board)
    clock = commands.add_parser(
        "clock", help="go by this computer's clock, though it is behind what was done here"
    )
    clock.set_defaults(run=_clock)
    for command in (move, board, clock):
        command.add_argument("--data", type=Path, help="folder of the data")


def _move(arguments: argparse.Namespace) -> int:
    from fairline.store.database import open_database
    from fairline.store.move import MoveError, move, without_password

    settings = settings_of(arguments)
    to = without_password(arguments.to)
    with alone(settings.data_dir), openable(settings):
        source = open_database(settings.database_url)
    try:
        with openable(settings, to):
            target = open_database(arguments.to)
        try:
            count = move(source, target)
        except MoveError as error:
            raise CommandError(f"Not moved: {error}.") from None
        finally:
            target.close()
    finally:
        source.close()
    print(
        f"{count['job']} jobs, {sum(count.values())} rows in all, are in {to}, compared row by "
        "row. Fair Line works there when FAIRLINE_DATABASE_URL names it."
    )
    return 0


def _database_file(settings: "Settings") -> Path:
    from fairline.store.database import file_of

    found = file_of(settings.database_url)
    if found is None:
        raise CommandError(
            "This database is no SQLite file: back it up with its own tools, or take it over into "
            "a file with fairline move --to sqlite:///FILE."
        )
    return found


def _backup(arguments: argparse.Namespace) -> int:
    from fairline.store.backup import BackupError, backup

    try:
        count = backup(_database_file(settings_of(arguments)), arguments.file)
    except BackupError as error:
        raise CommandError(f"No backup: {error}.") from None
    print(f"{count} jobs are in {arguments.file}, checked.")
    return 0


def _restore(arguments: argparse.Namespace) -> int:
    from fairline.store.backup import BackupError, restore

    settings = settings_of(arguments)
    with alone(settings.data_dir):
        try:
            count, aside = restore(arguments.file, _database_file(settings))
        except BackupError as error:
            raise CommandError(f"Not restored: {error}.") from None
    print(f"{count} jobs are back." + (f" What was there lies in {aside}." if aside else ""))
    return 0


def _verify(arguments: argparse.Namespace) -> int:
    """Every change is a line, and the command fails; what is intact says its last digest."""
    from fairline.store.backup import BackupError, verify
    from fairline.store.verified import SQLITE, UnreadableError, verify_backup, verify_file

    file: Path = arguments.file
    try:
        begins = file.read_bytes()[: len(SQLITE)] if file.is_file() else SQLITE
        if begins == SQLITE:
            count, _ = verify(file)
            found = verify_backup(file)
            print(f"{count} jobs are in {file}; it is sound. {len(found)} of them are sealed.")
        else:
            found = [verify_file(file.read_bytes())]
    except (BackupError, UnreadableError) as error:
        raise CommandError(f"Not sound: {error}.") from None
    for one in found:
        _tell(one)
    return EXIT_FAILED if any(not one.intact for one in found) else 0


def _tell(one: "Verified") -> None:
    from fairline.core.seal import spoken

    word = "intact" if one.intact else "CHANGED" if one.wrong else "UNKNOWN"
    print(f"{one.name}: {word}." + (f" Digest {spoken(one.last)}." if one.last else ""))
    for finding in (*one.wrong, *one.added):
        print(f"  {finding.words}{' Since the seal: allowed.' if finding in one.added else ''}")
    for note in one.notes:
        print(f"  {note}")


def _board(arguments: argparse.Namespace) -> int:
    from fairline.store import board
    from fairline.store.database import open_database

    settings = settings_of(arguments)
    with alone(settings.data_dir), openable(settings):
        database = open_database(settings.database_url)
        with database.session() as session:
            count = board.renew(session)
            session.commit()
        database.close()
    print(f"{count} jobs are judged anew.")
    return 0


def _clock(arguments: argparse.Namespace) -> int:
    """From the next start on times are the computer's: for a clock that was ahead, and is right."""
    from fairline.store.clock import follow_computer
    from fairline.store.database import open_database

    settings = settings_of(arguments)
    with alone(settings.data_dir), openable(settings):
        database = open_database(settings.database_url)
        with database.session() as session:
            last = follow_computer(session)
            session.commit()
        database.close()
    before = f"; the last act here was kept under {last:%Y-%m-%d %H:%M} UTC" if last else ""
    print(f"Times go by this computer's clock from the next start on{before}.")
    return 0
