"""Print the OpenAPI description, from which the front end's types are generated, or the reference in `docs/api.md`."""

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from ulmek.api.app import create_app


def openapi() -> dict[str, Any]:
    """The description of all routes and models."""
    with tempfile.TemporaryDirectory() as home:
        return create_app(Path(home)).openapi()


def openapi_text(described: dict[str, Any]) -> str:
    """The description as stable JSON text."""
    return json.dumps(described, indent=1, sort_keys=True) + "\n"


def reference_text(described: dict[str, Any]) -> str:
    """All routes as Markdown: what each does, what it takes, what it answers."""
    lines = [
        "# The API", "", "Written by `make types` from the routes; the whole description, with all models, is at "
        "`/api/openapi.json` of a running server.", "", "| route | does | takes | answers |", "|---|---|---|---|",
    ]  # fmt: skip
    for path, methods in sorted(described["paths"].items()):
        for method, route in methods.items():
            taken = [p["name"] for p in route.get("parameters", []) if p["in"] == "query"]
            content = route.get("requestBody", {}).get("content", {}).get("application/json")
            taken += [_model(content["schema"])] if content else []
            answer: dict[str, Any] = next((r for code, r in route["responses"].items() if code.startswith("2")), {})
            given = answer.get("content", {}).get("application/json")
            answered = (
                _model(given["schema"]) if given and given["schema"] else "" if "204" in route["responses"] else "bytes"
            )
            does = route.get("description", "").split("\n")[0]
            lines.append(f"| `{method.upper()} {path}` | {does} | {', '.join(f'`{t}`' for t in taken)} | {answered} |")
    return "\n".join(lines) + "\n"


def _model(schema: dict[str, Any]) -> str:
    """The name of a model, or of what a list holds."""
    if "items" in schema:
        return f"list of {_model(schema['items'])}"
    name = str(schema.get("$ref", schema.get("title", schema.get("type", "")))).rsplit("/", 1)[-1]
    return name or "one of several"


if __name__ == "__main__":
    writer = reference_text if sys.argv[1:] == ["--reference"] else openapi_text
    sys.stdout.write(writer(openapi()))
