"""How plain the house is, as numbers: rooms, arrows, complexity, examples, templates, lines.

``python tools/house.py`` counts this checkout; ``--against COMMIT`` that one beside it. Nothing is
run: all of it is read from the source. ``--list N`` names the N most complex functions.
"""

import argparse
import ast
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
BRANCHES = (ast.If, ast.IfExp, ast.For, ast.AsyncFor, ast.While, ast.ExceptHandler, ast.match_case)
NESTING = (ast.If, ast.For, ast.AsyncFor, ast.While, ast.Try, ast.With, ast.Match)
LONG_LINE = 120
Function = ast.FunctionDef | ast.AsyncFunctionDef


def inside(node: ast.AST) -> Iterator[ast.AST]:
    """All nodes of a function but those of functions and classes defined in it."""
    for child in ast.iter_child_nodes(node):
        if not isinstance(child, Function | ast.ClassDef | ast.Lambda):
            yield child
            yield from inside(child)


def complexity(function: Function) -> int:
    """Strict cyclomatic complexity: branches, each further operand of and/or, comprehensions."""
    count = 1
    for node in inside(function):
        if isinstance(node, BRANCHES):
            count += 1
        elif isinstance(node, ast.BoolOp):
            count += len(node.values) - 1
        elif isinstance(node, ast.comprehension):
            count += 1 + len(node.ifs)
    return count


def nesting(node: ast.AST, elif_of: ast.AST | None = None) -> int:
    """How deep blocks stand in each other; an elif is beside its if."""
    deepest = 0
    for child in ast.iter_child_nodes(node):
        if isinstance(child, Function | ast.ClassDef | ast.Lambda):
            continue
        beside = isinstance(child, ast.If) and isinstance(node, ast.If) and [child] == node.orelse
        deeper = isinstance(child, NESTING) and not beside
        deepest = max(deepest, nesting(child) + deeper)
    return deepest


def functions(root: Path) -> Iterator[tuple[Path, Function]]:
    """Every function of the package."""
    for path in sorted((root / "fairline").rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, Function):
                yield path.relative_to(root), node


def arrows(root: Path, layer: str) -> tuple[int, int]:
    """The rooms of a layer (its folders and flat files), and the imports between them."""
    folder = root / "fairline" / layer
    rooms = {p.stem for p in folder.iterdir() if p.suffix == ".py" or (p / "__init__.py").exists()}
    rooms -= {"__init__"}
    found = set()
    for path in folder.rglob("*.py"):
        here = path.relative_to(folder).parts[0].removesuffix(".py")
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.ImportFrom) or not node.module:
                continue
            parts = node.module.split(".")[2:]
            if node.module.startswith(f"fairline.{layer}."):
                found.add((here, parts[0]))
            elif node.module == f"fairline.{layer}":
                found |= {(here, alias.name) for alias in node.names}
    return len(rooms), len({(a, b) for a, b in found if a != b and {a, b} <= rooms})


def lines(paths: Iterator[Path]) -> int:
    return sum(bool(line.strip()) for path in paths for line in path.read_text().splitlines())


def measured(root: Path) -> dict[str, str]:
    """Every figure of one checkout, in words."""
    package, found = root / "fairline", {}
    for layer in ("core", "web"):
        rooms, between = arrows(root, layer)
        found[f"{layer}: rooms, arrows"] = f"{rooms}, {between}"
    strict = [complexity(f) for _, f in functions(root)]
    found["functions over 10, over 15"] = (
        f"{sum(c > 10 for c in strict)}, {sum(c > 15 for c in strict)}"
    )
    found["most complex"] = str(max(strict))
    found["nested over three"] = str(sum(nesting(f) > 3 for _, f in functions(root)))
    computing = [package / "core" / room for room in ("calc", "physics")]
    public = [
        node
        for room in computing
        for path in room.glob("*.py")
        for node in ast.parse(path.read_text()).body
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_")
    ]
    shown = sum(">>> " in (ast.get_docstring(node) or "") for node in public)
    found["computations with an example"] = f"{shown} of {len(public)}"
    rows = [
        r for p in (package / "web/templates").rglob("*.html") for r in p.read_text().splitlines()
    ]
    found["template lines over 120"] = f"{sum(len(r) > LONG_LINE for r in rows) / len(rows):.1%}"
    styles = [r for p in (root / "styles").rglob("*.css") for r in p.read_text().splitlines()]
    found["style lines with two rules"] = str(sum(r.count("{") > 1 for r in styles))
    product = lines(
        p
        for p in package.rglob("*")
        if p.suffix in (".py", ".html", ".js") and "vendor" not in p.parts
    )
    product += lines((root / "styles").rglob("*.css"))
    tests = lines((root / "tests").rglob("*.py"))
    found["lines, product and tests"] = f"{product}, {tests} ({tests / (product + tests):.0%})"
    return found


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--against", help="a commit to count beside this checkout")
    parser.add_argument("--list", type=int, default=0, help="name so many complex functions")
    asked = parser.parse_args()
    columns = {"this checkout": measured(HERE)}
    if asked.against:
        with tempfile.TemporaryDirectory() as folder:
            git = ["git", "-C", str(HERE)]
            archive = subprocess.run(
                [*git, "archive", asked.against], capture_output=True, check=True
            )
            subprocess.run(["tar", "-x", "-C", folder], input=archive.stdout, check=True)
            columns = {asked.against: measured(Path(folder))} | columns
    print(f"{'':<32}" + "".join(f"{name[:24]:>26}" for name in columns))
    for name in columns["this checkout"]:
        print(f"{name:<32}" + "".join(f"{found[name]:>26}" for found in columns.values()))
    worst = sorted(functions(HERE), key=lambda one: -complexity(one[1]))[: asked.list]
    for path, function in worst:
        print(f"{complexity(function):4} {path}:{function.lineno} {function.name}")


if __name__ == "__main__":
    main()
