"""The command line: serve, demo, calc."""

import argparse
import json
import sys
from pathlib import Path

EXIT_INVALID = 2


def main(argv: list[str] | None = None) -> int:
    """Run one command; the exit code is 0 with an answer, 2 where the request is not valid."""
    arguments = _parser().parse_args(argv)
    code: int = arguments.run(arguments)
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
        command.set_defaults(run=run)
    calc = commands.add_parser("calc", help="answer one computation, JSON in and out")
    calc.add_argument("name", nargs="?", help="its name; the request comes on standard input")
    calc.add_argument("--list", action="store_true", help="print the names")
    calc.set_defaults(run=_calc)
    return parser


def _serve(arguments: argparse.Namespace) -> int:
    from fairline.settings import Settings, default_data_dir

    return _run_server(Settings(arguments.data or default_data_dir()), arguments.port)


def _demo(arguments: argparse.Namespace) -> int:
    from fairline.settings import Settings, default_data_dir

    data = arguments.data or default_data_dir() / "demo"
    settings = Settings(data)
    from fairline.demo.load import load_demo

    load_demo(settings)
    return _run_server(settings, arguments.port)


def _run_server(settings: object, port: int) -> int:
    import uvicorn

    from fairline.settings import Settings
    from fairline.web.app import create_app

    assert isinstance(settings, Settings)
    app = create_app(settings)
    print(
        f"Fair Line answers at http://127.0.0.1:{port}/  (data in {settings.data_dir})", flush=True
    )
    uvicorn.run(
        app,
        host="127.0.0.1",
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=1,
        server_header=False,
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
