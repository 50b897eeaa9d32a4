"""A log of requests has the route's pattern and no secret."""

import io
import json

from fairline.settings import Settings
from fairline.web.app import create_app
from fairline.web.frame.logs import logged
from tests.client import TestClient
from tests.conftest import BASE


def test_a_line_names_the_route_and_neither_secret_nor_query(tmp_path):
    out = io.StringIO()
    with TestClient(logged(create_app(Settings(tmp_path)), out), base_url=BASE) as client:
        client.get("/shared/very-secret-token")
        client.get("/?q=private", headers={"authorization": "Bearer hidden"})
        client.post("/sign-in", data={"name": "Ida", "password": "hidden horse"})
        client.get("/nowhere")
    lines = [json.loads(line) for line in out.getvalue().splitlines()]
    assert [(x["method"], x["route"], x["status"]) for x in lines] == [
        ("GET", "/shared/{secret}", 404),
        ("GET", "/", 200),
        ("POST", "/sign-in", 422),
        ("GET", "", 404),
    ]
    assert not any(word in out.getvalue() for word in ("secret-", "private", "hidden"))
    assert all(x["ms"] >= 0 and x["from"] == "127.0.0.1" for x in lines)
