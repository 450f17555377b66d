"""Print the OpenAPI description, from which the front end's types are generated."""

import json
import sys
import tempfile
from pathlib import Path

from ulmek.api.app import create_app


def openapi_text() -> str:
    """The description as stable JSON text."""
    with tempfile.TemporaryDirectory() as home:
        return json.dumps(create_app(Path(home)).openapi(), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    sys.stdout.write(openapi_text())
