"""Packages of the core have doors: what others use of them is named there, and nothing is imported past them."""

import ast
import importlib
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import pytest

ROOT = Path(__file__).parents[1]
CORE = "wedge_turn.core"
PACKAGES = sorted(
    path.name for path in (ROOT / "src" / "wedge_turn" / "core").iterdir() if (path / "__init__.py").exists()
)


class Import(NamedTuple):
    file: str
    by: str  # the package of the core that imports, empty for others
    module: str
    name: str


def read_imports() -> Iterator[Import]:
    """What is imported from packages of the core, in the product, its tools and its benchmarks."""
    for path in (path for folder in ("src", "tools") for path in sorted((ROOT / folder).rglob("*.py"))):
        where = path.relative_to(ROOT).parts
        by = where[3] if where[:3] == ("src", "wedge_turn", "core") and len(where) > 4 else ""
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith(f"{CORE}."):
                yield from (Import("/".join(where), by, node.module, alias.name) for alias in node.names)


IMPORTS = list(read_imports())


def test_nothing_behind_a_door_is_imported_from_outside() -> None:
    doors = {f"{CORE}.{package}" for package in PACKAGES}
    past = [
        i
        for i in IMPORTS
        if i.module.split(".")[2] in PACKAGES and i.by != i.module.split(".")[2] and i.module not in doors
    ]
    assert not past


@pytest.mark.parametrize("package", PACKAGES)
def test_a_door_names_what_others_use(package: str) -> None:
    door = importlib.import_module(f"{CORE}.{package}")
    used = {i.name for i in IMPORTS if i.module == f"{CORE}.{package}" and i.by != package}
    # The turns are a door of their own for users of the library, who have more of them than the product needs.
    assert set(door.__all__) == used or (package == "turns" and set(door.__all__) > used)
    modules = {name for name in used if isinstance(getattr(door, name), type(ast))}
    assert modules <= {"kernels"}, "a name is hidden by the module of that name"
