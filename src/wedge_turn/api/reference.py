"""The API's documentation as a page of its own, made from the OpenAPI document: nothing comes from outside."""

from html import escape
from typing import Any, Final

_PAGE: Final = """<!doctype html>
<html lang="en"><meta charset="utf-8"><title>Wedge Turn: the API</title>
<style>
body {{ font: 16px/1.5 system-ui, sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }}
h2 {{ margin-top: 2rem; text-transform: capitalize; }}
dt {{ font-family: ui-monospace, monospace; margin-top: 1rem; }}
dd {{ margin-left: 1.5rem; }}
</style>
<h1>Wedge Turn: the API</h1>
<p>As data: <a href="/api/openapi.json">openapi.json</a></p>
{sections}
</html>"""


def render_page(document: dict[str, Any]) -> str:
    """HTML that lists every operation of an OpenAPI document by its tag."""
    sections: dict[str, list[str]] = {}
    for path, operations in document["paths"].items():
        for method, operation in operations.items():
            tag = (operation.get("tags") or ["general"])[-1]
            sections.setdefault(tag, []).append(_entry(method, path, operation))
    return _PAGE.format(
        sections="".join(f"<h2>{escape(tag)}</h2><dl>{''.join(entries)}</dl>" for tag, entries in sections.items())
    )


def _entry(method: str, path: str, operation: dict[str, Any]) -> str:
    parameters = ", ".join(f"{parameter['name']} ({parameter['in']})" for parameter in operation.get("parameters", []))
    takes = f"<br>Takes {escape(parameters)}." if parameters else ""
    return f"<dt>{method.upper()} {escape(path)}</dt><dd>{escape(operation.get('description', ''))}{takes}</dd>"
