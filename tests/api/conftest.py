"""The application on its own data."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from ulmek.api.app import create_app


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    """The application on its own data, as its own page would reach it."""
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8321") as served:
        yield served
