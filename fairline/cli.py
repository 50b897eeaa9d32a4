"""The command line: serve, demo, people, certificate, calc, instrument, backup, verify, board."""

import argparse
import ctypes
import gc
import json
import os
import socket
import sys
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fairline import cli_data, cli_people
from fairline.command import EXIT_FAILED, CommandError, alone, openable, settings_of
from fairline.core.errors import FairLineError

if TYPE_CHECKING:
    from fairline.settings import Settings

EXIT_INVALID = 2
ARENA_MAX, ARENAS = -8, 2  # M_ARENA_MAX of glibc's malloc.h


def main(argv: list[str] | None = None) -> int:
    """Run one command; 0 with an answer, 2 where the request is not valid, 1 where it cannot be.

    What stands in the way (a folder, a disk, a port, another server) is said in one sentence.
    """
    arguments = _parser().parse_args(argv)
    os.umask(0o077)  # what is written here is its owner's
    try:
        code: int = arguments.run(arguments)
    except CommandError as error:
        print(error, file=sys.stderr)
        return EXIT_FAILED
    return code


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="fairline", description="Works out and judges a ductless mini-split job."
    )
    commands = parser.add_subparsers(required=True, metavar="command")
    for name, run, about in (
        ("serve", _serve, "serve your own jobs on this machine"),
        ("demo", _demo, "serve the demo company's jobs"),
    ):
        command = commands.add_parser(name, help=about)
        command.add_argument("--port", type=int, default=8000, help="default 8000")
        command.add_argument("--data", type=Path, help="folder of the data")
        if name == "serve":
            _reach(command)
        command.set_defaults(run=run)
    cli_people.add_commands(commands)
    cli_data.add_commands(commands)
    calc = commands.add_parser("calc", help="answer one computation, JSON in and out")
    calc.add_argument("name", nargs="?", help="its name; the request comes on standard input")
    calc.add_argument("--list", action="store_true", help="print the names")
    calc.set_defaults(run=_calc)
    tool = commands.add_parser("instrument", help="a simulated instrument that reads into a job")
    kinds = ("micron", "manometer", "scale", "thermometer", "wrench")
    tool.add_argument("kind", choices=kinds)
    tool.add_argument("--job", required=True, help="its address, http://127.0.0.1:8000/jobs/3")
    tool.add_argument("--scenario", default="", help="what the system behind it has")
    tool.add_argument("--ports", default="", help="of several circuits those it sits on: A,B")
    tool.add_argument("--name", default="", help="what its readings carry; default its kind")
    tool.add_argument("--token", default="", help="what lets it in, where people sign in")
    tool.add_argument("--speed", type=float, default=1.0, help="how fast its time runs; default 1")
    tool.add_argument("--minutes", type=float, default=240.0, help="of its time; default 240")
    tool.add_argument("--leak", type=float, default=0.0, help="micron: a leak of this, Pa·m³/s")
    tool.add_argument("--water", type=float, default=0.0, help="micron: water left in it, g")
    tool.add_argument("--start", type=float, default=10.0, help="scale: the cylinder, kg")
    tool.add_argument("--take", type=float, default=0.4, help="scale: what leaves it, kg")
    tool.add_argument("--set", type=float, default=16.0, help="wrench: what it is set to, N·m")
    tool.set_defaults(run=_instrument)
    return parser


def _reach(command: argparse.ArgumentParser) -> None:
    """How others than this machine reach the server."""
    command.add_argument("--host", default="127.0.0.1", help="address to answer on; 0.0.0.0: all")
    command.add_argument(
        "--name", action="append", default=[], dest="hosts", help="a name it is called by"
    )
    command.add_argument(
        "--tls", nargs=2, type=Path, metavar=("CERT", "KEY"), help="certificate and key, as PEM"
    )
    command.add_argument(
        "--proxy", default="", help="the proxy before it that ends TLS, by its address"
    )
    command.add_argument(
        "--workers", type=int, default=1, choices=range(1, 17), metavar="N", help="processes"
    )
    command.add_argument("--log", action="store_true", help="a line of JSON for each request")


def _instrument(arguments: argparse.Namespace) -> int:
    """A simulated instrument until its time is over; it goes on where the server was away."""
    import threading

    from fairline.core.instrument import WHAT
    from fairline.instruments.catalogue import NOWHERE, Choice, made
    from fairline.instruments.process import Process
    from fairline.instruments.reporter import Reporter

    try:
        choice = Choice(
            arguments.kind,
            arguments.scenario,
            arguments.leak,
            arguments.water / 1000,
            arguments.start,
            arguments.take,
            arguments.set,
        )
        reporter = Reporter.at(arguments.job, arguments.token)
        reporter.tell = _waits
        made(choice, NOWHERE, 0)  # what cannot be made is told before anybody is asked
        tool = made(choice, reporter.rig(arguments.ports), reporter.job)
        ports = tuple(p for p in arguments.ports.split(",") if p)
        name = arguments.name or f"simulated {WHAT[choice.what]}"
        speed, longest = max(0.1, arguments.speed), arguments.minutes * 60
        Process(reporter, tool, name, speed, longest, ports=ports).work(threading.Event())
    except FairLineError as error:
        raise CommandError(str(error)) from error
    except KeyboardInterrupt:
        return 0
    except OSError as error:
        raise CommandError(f"no answer from {arguments.job}: {error}") from error
    return 0


def _waits(why: str) -> None:
    told = f"Readings wait, and are sent again: {why}." if why else "Readings go out."
    print(told, file=sys.stderr, flush=True)


def _serve(arguments: argparse.Namespace) -> int:
    return _run_server(settings_of(arguments), _answers(arguments), demo=False)


def _demo(arguments: argparse.Namespace) -> int:
    return _run_server(settings_of(arguments, "demo"), Answers(arguments.port), demo=True)


@dataclass(frozen=True)
class Answers:
    """Where a server answers, and how: ``tls`` is certificate and key, ``proxy`` who ends TLS."""

    port: int
    host: str = "127.0.0.1"
    tls: tuple[Path, Path] | None = None
    proxy: str = ""
    log: bool = False
    workers: int = 1

    @property
    def far(self) -> bool:
        """Whether other machines than this one reach it."""
        return self.host not in ("127.0.0.1", "localhost", "::1")


def _answers(arguments: argparse.Namespace) -> Answers:
    """Raises CommandError where passwords would go through a network for all to read."""
    from fairline.store import certificate

    tls = tuple(arguments.tls) if arguments.tls else None
    own = certificate.files(settings_of(arguments).data_dir / "tls")
    answers = Answers(
        arguments.port, arguments.host, tls, arguments.proxy, arguments.log, arguments.workers
    )
    if not answers.far:
        return answers
    if tls is None and not arguments.proxy and own.certificate.is_file():
        answers = replace(answers, tls=(own.certificate, own.key))
    if answers.tls is None and not answers.proxy:
        raise CommandError(
            "Other machines are answered over TLS only. Make a certificate with fairline "
            "certificate NAME, or give one with --tls CERT KEY, or name the proxy that has one "
            "with --proxy ADDRESS."
        )
    if missing := [path for path in answers.tls or () if not path.is_file()]:
        raise CommandError(f"There is no file {missing[0]}.")
    return answers


def _addresses(answers: Answers) -> list[str]:
    """What is typed to reach it: of all addresses those that its certificate is good for."""
    from fairline.store import certificate

    scheme, names = "http", [answers.host]
    if answers.tls is not None:
        scheme = "https"
        if answers.host in ("0.0.0.0", "::"):
            names = certificate.names(answers.tls[0]) or names
    return [f"{scheme}://{f'[{n}]' if ':' in n else n}:{answers.port}/" for n in names]


def _in_the_environment(settings: "Settings", answers: Answers) -> str:
    """What each process of a server reads its settings from; the name of what makes its app."""
    os.environ["FAIRLINE_DATA"] = str(settings.data_dir)
    os.environ["FAIRLINE_HOSTS"] = ",".join(settings.hosts)
    os.environ["FAIRLINE_WORKERS"] = str(answers.workers)
    os.environ["FAIRLINE_LOG"] = "yes" if answers.log else ""
    return "fairline.cli:worker"


def worker() -> Any:
    """The application of one process of several."""
    from fairline.settings import Settings, default_data_dir
    from fairline.web.app import create_app
    from fairline.web.frame.logs import logged

    os.umask(0o077)
    _few_arenas()
    app = create_app(Settings(default_data_dir()))
    return logged(app) if os.environ.get("FAIRLINE_LOG") else app


def _few_arenas() -> None:
    """Keep the threads of a server to few heaps of glibc's: each of many grows to its own peak."""
    with suppress(OSError, AttributeError):  # another libc has no such thing
        ctypes.CDLL(None).mallopt(ARENA_MAX, ARENAS)


def _port_free(host: str, port: int) -> None:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family, socket.SOCK_STREAM) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except (OSError, OverflowError):
            raise CommandError(
                f"Port {port} is taken or not allowed: choose another with --port."
            ) from None


def _run_server(settings: "Settings", answers: Answers, demo: bool) -> int:
    gc.disable()  # what is loaded stays: looking through it for garbage takes a fifth of the start
    import uvicorn

    from fairline.demo.load import load_demo
    from fairline.web.app import create_app
    from fairline.web.frame.logs import logged

    gc.freeze()
    gc.enable()
    _few_arenas()
    _port_free(answers.host, answers.port)
    with alone(settings.data_dir):
        with openable(settings):
            if demo:
                load_demo(settings)
            app = create_app(settings)
        print(
            f"Fair Line answers at {' and '.join(_addresses(answers))}  "
            f"(data in {settings.data_dir})",
            flush=True,
        )
        if answers.far and app.state.nobody():
            print(
                "Nobody can sign in yet, so no other machine is answered: "
                "fairline people add NAME --role owner",
                flush=True,
            )
        certificate, key = answers.tls or (None, None)
        served: Any = logged(app) if answers.log else app
        if answers.workers > 1:  # each opens the database itself
            app.state.database.close()
            served = _in_the_environment(settings, answers)
        uvicorn.run(
            served,
            factory=answers.workers > 1,
            workers=answers.workers,
            host=answers.host,
            port=answers.port,
            log_level="warning",
            timeout_graceful_shutdown=1,
            server_header=False,
            ssl_certfile=certificate,
            ssl_keyfile=key,
            proxy_headers=bool(answers.proxy),
            forwarded_allow_ips=answers.proxy or None,
        )
    return 0


def _calc(arguments: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from fairline.core.calc.door import CALCULATIONS
    from fairline.core.problem import from_validation, problem

    if arguments.list:
        print("\n".join(CALCULATIONS))
        return 0
    if arguments.name not in CALCULATIONS:
        known = ", ".join(CALCULATIONS)
        told = problem(404, "There is no such computation", f"known: {known}")
        print(json.dumps(told), file=sys.stderr)
        return EXIT_INVALID
    try:
        answer = CALCULATIONS[arguments.name].run(sys.stdin.buffer.read())
    except ValidationError as error:
        print(json.dumps(from_validation(error)), file=sys.stderr)
        return EXIT_INVALID
    print(answer.model_dump_json())
    return 0


if __name__ == "__main__":
    sys.exit(main())
