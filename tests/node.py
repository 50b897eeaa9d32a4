"""What Node's registry gives to the tests: installed once, by one of them at a time."""

import fcntl
import shutil
import subprocess
import tempfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
MODULES = ROOT / "node_modules"


def node_modules(*needed: str) -> Path:
    """The folder of Node's packages with those ``needed``; skips where there is no Node."""
    npm = shutil.which("npm")
    with (Path(tempfile.gettempdir()) / "fairline-node.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not all((MODULES / name).exists() for name in needed):
            install = [npm, "install", "--no-save", "--ignore-scripts"]
            if npm is None or subprocess.run(install, cwd=ROOT, capture_output=True).returncode:
                pytest.skip("needs Node and its registry")
    return MODULES
