"""The documents hold against the code they describe."""

import ast
import re
import tomllib
from pathlib import Path

import pytest

from fairline.core.calc.door import CALCULATIONS
from fairline.core.stages import TITLES as STAGES
from fairline.store.log_header import COLUMNS
from tools.screenshots import VIEWS

ROOT = Path(__file__).parents[1]
README = (ROOT / "README.md").read_text()
ARCHITECTURE = (ROOT / "docs" / "architecture.md").read_text()


def test_every_link_and_picture_of_the_readme_is_there():
    for target in re.findall(r"\]\(([^)#]+)\)", README):
        assert (ROOT / target).exists(), target
    pictures = {p.stem for p in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert pictures == set(VIEWS) and len(pictures) < 20
    for name in pictures:
        assert f"docs/screenshots/{name}.png" in README


def test_every_command_of_the_readme_is_a_target():
    targets = set(re.findall(r"^([a-z-]+):", (ROOT / "Makefile").read_text(), re.M))
    assert set(re.findall(r"make ([a-z]+)", README)) <= targets
    assert "make test" in (ROOT / ".ci" / "run").read_text()


def test_every_file_the_architecture_names_is_there():
    named = set(re.findall(r"`((?:core|store|web|instruments|static)/[\w/.]+)`", ARCHITECTURE))
    assert named
    for name in named:
        if {"NAME", "KIND"} & set(re.split(r"[/.]", name)):
            continue  # of what could be added
        path = (
            name.split(".")[0]
            if name.count("/") and not name.endswith((".py", ".txt", ".js"))
            else name
        )
        base = "fairline/web" if name.startswith("static") else "fairline"
        found = [(ROOT / base / name), (ROOT / base / f"{path}.py"), (ROOT / base / path)]
        assert any(p.exists() for p in found), name


def test_every_test_that_the_list_of_what_is_checked_names_is_there():
    listed = (ROOT / "docs" / "security.md").read_text()
    defined = "".join(path.read_text() for path in (ROOT / "tests").rglob("test_*.py"))
    for name in re.findall(r"`(test_\w+)`", listed):
        assert f"def {name}(" in defined, name
    for path in re.findall(r"`((?:tests|core)/[\w/.]+)`", listed):
        assert any((base / path).exists() for base in (ROOT, ROOT / "fairline")), path


@pytest.mark.parametrize("stage", STAGES)
def test_one_stage_has_one_name_in_every_layer(stage):
    name = stage.replace("-", "_")
    package = ROOT / "fairline"
    assert (package / "core" / name / "stage.py").exists()
    assert (package / "web" / f"{name}.py").exists() or (package / "web" / name).is_dir()
    assert (package / "web" / "templates" / name / "page.html").exists()


def test_the_files_in_and_out_are_described():
    data = (ROOT / "docs" / "data.md").read_text()
    for column in COLUMNS:
        assert f"`{column}`" in data or f"{column}," in data or f", {column}" in data, column


def test_every_computation_has_a_file_of_its_own_name_and_an_example_that_is_run():
    folder = ROOT / "fairline" / "core" / "calc"
    for name, calculation in CALCULATIONS.items():
        assert (folder / f"{name.replace('-', '_')}.py").exists()
        assert ">>> " in (calculation.function.__doc__ or ""), name
    others = {f.stem for f in folder.glob("*.py")} - {"__init__", "door"}
    assert others == {name.replace("-", "_") for name in CALCULATIONS}


def test_every_public_function_of_the_physics_and_the_door_has_an_example_that_is_run():
    for path in (
        f for room in ("physics", "calc") for f in (ROOT / "fairline/core" / room).glob("*.py")
    ):
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                assert ">>> " in (ast.get_docstring(node) or ""), f"{path}: {node.name}"


def test_no_long_file_and_no_nameless_one():
    for path in (ROOT / "fairline").rglob("*.py"):
        lines = [line for line in path.read_text().splitlines() if line.strip()]
        assert len(lines) <= 400, path
        assert path.stem not in ("utils", "helpers", "common", "misc")
        assert not lines or lines[0].startswith(('"""', "#!")), f"{path} says nothing of itself"


def test_a_template_line_is_short_enough_to_read():
    for path in (ROOT / "fairline" / "web" / "templates").rglob("*.html"):
        for n, line in enumerate(path.read_text().splitlines(), 1):
            assert len(line) <= 130, f"{path}:{n}"


def test_a_style_line_has_one_rule():
    for path in (ROOT / "styles").rglob("*.css"):
        for n, line in enumerate(path.read_text().splitlines(), 1):
            assert line.count("{") <= 1 and len(line) <= 150, f"{path}:{n}"


def test_every_error_of_ours_has_one_root():
    for path in (ROOT / "fairline").rglob("*.py"):
        for name, roots in re.findall(r"^class (\w*Error)\((.*)\):", path.read_text(), re.M):
            known = ("FairLineError", "Exception") if path.stem == "errors" else ("FairLineError",)
            assert roots.startswith((*known, "Entry")), f"{path}: {name}"


def test_every_dependency_is_named_with_its_reason():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    told = (ROOT / "docs" / "dependencies.md").read_text().lower()
    for one in (*project["dependencies"], *project["optional-dependencies"]["dev"]):
        assert re.search(rf"\b{re.match(r'[a-z0-9-]+', one).group()}\b", told), one


def test_the_walks_through_the_code_name_what_is_there():
    walks = ARCHITECTURE.partition("## Three walks")[2].partition("\n## ")[0]
    steps = re.findall(r"^\d\. (.*(?:\n   .*)*)", walks, re.M)
    assert len(steps) > 15
    for step in steps:
        files = re.findall(r"`((?:core|store|web)/[\w/]+\.(?:py|html|csv))`", step)
        source = "".join((ROOT / "fairline" / name).read_text() for name in files)
        for name in re.findall(r"`([a-z_]+|[A-Z][A-Za-z]+)`", step):
            assert re.search(rf"\b{name}\b", source), (name, files)
        for module, name in re.findall(r"`([a-z]+(?:/\w+)+)\.([A-Za-z_]+)`", step):
            if name not in ("py", "html", "csv"):
                assert name in (ROOT / "fairline" / f"{module}.py").read_text(), (module, name)
        for owner, name in re.findall(r"`([A-Z]\w+)\.(\w+)`", step):
            assert f"class {owner}" in source or owner in source or name in source, (owner, name)
