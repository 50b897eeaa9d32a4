"""A client of the application on the computer that the server runs on."""

from typing import Any

from starlette import testclient


class TestClient(testclient.TestClient):
    """As the library's, but with an address: what has none is no machine's."""

    __test__ = False

    def __init__(self, app: Any, **how: Any) -> None:
        super().__init__(app, **({"client": ("127.0.0.1", 50_000)} | how))
