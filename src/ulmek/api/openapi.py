"""Write what is generated from the server: the OpenAPI description (of which the page's types are made), the reference
in `docs/api.md`, and the vocabulary that tests of the page use. `--check` says what is stale instead.
"""

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from ulmek.api.app import create_app
from ulmek.api.vocabulary import vocabulary


def openapi() -> dict[str, Any]:
    """The description of all routes and models."""
    with tempfile.TemporaryDirectory() as home:
        return create_app(Path(home)).openapi()


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


def generated() -> dict[str, str]:
    """Texts of the generated files by their places in the project."""
    described = openapi()
    return {
        "web/openapi.json": json.dumps(described, indent=1, sort_keys=True) + "\n",
        "docs/api.md": reference_text(described),
        "web/src/tests/vocabulary.json": vocabulary().model_dump_json(indent=1) + "\n",
    }


def _main() -> int:
    texts = {Path(name): text for name, text in generated().items()}
    if "--check" in sys.argv[1:]:
        stale = [path for path, text in texts.items() if not path.exists() or path.read_text() != text]
        sys.stderr.writelines(f"{path} is stale: make types\n" for path in stale)
        return 1 if stale else 0
    for path, text in texts.items():
        path.write_text(text)
    return 0


if __name__ == "__main__":
    sys.exit(_main())
