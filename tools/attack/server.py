"""A server of the demo in a process of its own, to be killed."""

import http.client
import json
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

PATIENCE_S = 60.0


class Server:
    """``fairline demo`` on a free port; started, killed and started again on the same folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [sys.executable, "-m", "fairline.cli", "demo"]
        command += ["--port", str(self.port), "--data", str(self.folder)]
        self.process = subprocess.Popen(
            command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            try:
                urllib.request.urlopen(f"{self.url}/api/calc", timeout=5).read()
                return
            except OSError:
                time.sleep(0.05)
        raise RuntimeError("the server did not come up")

    def kill(self) -> None:
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(timeout=30)

    def read(self, path: str) -> tuple[int, int]:
        """Status of a page and how many bytes it has; 0 where no answer came."""
        try:
            with urllib.request.urlopen(f"{self.url}{path}", timeout=60) as answer:
                return answer.status, len(answer.read())
        except urllib.error.HTTPError as error:
            return error.code, 0
        except (OSError, http.client.HTTPException):
            return 0, 0

    def ask(self, path: str, body: Any = None, timeout: float = 30.0) -> tuple[int, Any]:
        """Status and JSON of an answer; 0 where none came."""
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.url}{path}", data)
        try:
            with urllib.request.urlopen(request, timeout=timeout) as answer:
                return answer.status, json.loads(answer.read() or b"null")
        except urllib.error.HTTPError as error:
            return error.code, None
        except (OSError, ValueError, http.client.HTTPException):
            return 0, None
