"""The page is there from the first moment; what it asks waits for the application, and a failure is told."""

import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from ulmek.api import opening
from ulmek.api.opening import Opening


@pytest.fixture(autouse=True)
def built_page(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = tmp_path_factory.mktemp("dist")
    (folder / "index.html").write_text("<title>Ulmek</title>")
    (folder / "assets").mkdir()
    (folder / "assets" / "page.js").write_text("start()")
    (folder.parent / "secret.txt").write_text("not for the page")
    monkeypatch.setattr(opening, "WEB", folder)


def test_the_page_does_not_wait_and_the_rest_does() -> None:
    may_open, lived = threading.Event(), []

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        lived.append("opened")
        yield
        lived.append("closed")

    def make() -> FastAPI:
        assert may_open.wait(10)
        app = FastAPI(lifespan=lifespan)
        app.add_api_route("/api/health", lambda: {"is": "well"})
        return app

    with TestClient(Opening(make, lived.append)) as client:
        assert "<title>Ulmek</title>" in client.get("/").text
        assert client.get("/assets/page.js").text == "start()"
        # Addresses of views are the page itself, and nothing outside it is served.
        for path in ("/studies/3/bench", "/../secret.txt", "/assets/../../secret.txt"):
            assert "<title>Ulmek</title>" in client.get(path).text
        assert lived == []
        threading.Timer(0.2, may_open.set).start()
        assert client.get("/api/health").json() == {"is": "well"}
        assert lived == ["opened"]
    assert lived == ["opened", "closed"]


def test_an_application_that_cannot_be_made_is_told_and_answers_so() -> None:
    heard: list[BaseException] = []

    def make() -> FastAPI:
        raise OSError("the data folder belongs to a later version")

    with TestClient(Opening(make, heard.append)) as client:
        answer = client.get("/api/health")
        assert answer.status_code == 503
        assert "could not open" in answer.json()["message"]
    assert [str(error) for error in heard] == ["the data folder belongs to a later version"]
