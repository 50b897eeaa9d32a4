"""The commands that let people and phones in: who may sign in, and the server's certificate."""

import argparse
import socket
import sys
from pathlib import Path

from fairline.command import CommandError, openable, settings_of


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    parser = commands.add_parser("people", help="who may sign in: add, reset, list")
    parser.add_argument("what", choices=("add", "reset", "list"))
    parser.add_argument("name", nargs="?", default="")
    parser.add_argument("--role", default="installer", help="owner, lead, installer or guest")
    parser.add_argument("--data", type=Path, help="folder of the data")
    parser.set_defaults(run=_people)
    own = commands.add_parser(
        "certificate", help="make an authority of one's own, and a certificate for this server"
    )
    own.add_argument("names", nargs="*", help="names and addresses that phones type")
    own.add_argument("--port", type=int, default=8000, help="for the code that is printed")
    own.add_argument("--data", type=Path, help="folder of the data")
    own.set_defaults(run=_certificate)


def _people(arguments: argparse.Namespace) -> int:
    """Somebody added, or given a new password, which comes on standard input."""
    from fairline.core.people import ROLES
    from fairline.store import people
    from fairline.store.database import open_database

    settings = settings_of(arguments)
    if arguments.what != "list" and not arguments.name:
        raise CommandError("Say the name: fairline people add NAME --role owner")
    if arguments.role not in ROLES or arguments.role == "electrician":
        raise CommandError("The role is owner, lead, installer or guest.")
    with openable(settings):
        database = open_database(settings.database_url)
    try:
        with database.session() as session:
            if arguments.what == "list":
                for one in people.people(session):
                    print(f"{one.name}: {one.role}{', may not sign in' if one.ended else ''}")
                return 0
            password = _password()
            if arguments.what == "add":
                people.add(session, arguments.name, arguments.role, password)
            else:
                known = people.named(session, arguments.name)
                if known is None:
                    raise CommandError(f"Nobody is called {arguments.name}.")
                people.set_password(session, known.id, password)
                people.forget_passkeys(session, known.id)
                people.forget_tries(session, known.name)
            session.commit()
    except people.PeopleError as error:
        raise CommandError(f"Not done: {error}.") from None
    finally:
        database.close()
    print(f"{arguments.name} may sign in.")
    return 0


def _password() -> str:
    """From a person at the keyboard, unseen; else the first line of standard input."""
    if sys.stdin.isatty():
        from getpass import getpass

        return getpass("Password: ")
    return sys.stdin.readline().rstrip("\r\n")


def _certificate(arguments: argparse.Namespace) -> int:
    """The files in the data's folder ``tls``; what a phone scans is printed."""
    import segno

    from fairline.store import certificate

    settings = settings_of(arguments)
    names = arguments.names or [socket.gethostname()]
    try:
        made = certificate.make(settings.data_dir / "tls", [*names, "localhost", "127.0.0.1"])
    except (OSError, ValueError) as error:
        raise CommandError(f"No certificate was made: {error}.") from None
    address = f"https://{names[0]}:{arguments.port}/certificate"
    print(f"Certificate for {', '.join(names)} in {made.certificate.parent}.")
    print(f"A phone in the same network opens {address} once; the authority's SHA-256 is")
    print(certificate.fingerprint(made.authority.read_bytes()))
    until = certificate.ends(settings.data_dir / "tls")
    print(f"The server's certificate ends {until:%Y-%m-%d}: make the next one before.")
    segno.make(address, error="m").terminal(compact=True)
    return 0
