"""The documents hold what the code does."""

import re
from pathlib import Path
from typing import get_args

import pytest
from typer.testing import CliRunner

from wedge_turn.cli.main import app
from wedge_turn.cli.options import Format
from wedge_turn.core import errors
from wedge_turn.core.delivery import ContainerName

ROOT = Path(__file__).parent.parent
README = (ROOT / "README.md").read_text("utf-8")


def test_every_command_stands_in_the_readme() -> None:
    commands = {command.name or command.callback.__name__ for command in app.registered_commands if command.callback}
    assert commands == {"serve", "password", "doctor", "demo", "inspect", "apply", "prep", "run", "suggest", "verify"}
    for command in commands:
        assert f"wedge-turn {command}" in README


@pytest.mark.parametrize(
    "command", ["serve", "password", "doctor", "demo", "inspect", "apply", "prep", "run", "suggest", "verify"]
)
def test_every_option_of_a_command_is_explained(command: str) -> None:
    shown = CliRunner().invoke(app, [command, "--help"], terminal_width=200).output
    shown = re.sub(r"\n {20,}", "  ", shown)  # help that has its own line
    options = re.findall(r"^\s+(?:--?\S+.*|FILE\.\.\..*|FOLDER.*|DIR.*|TURN.*)$", shown, re.MULTILINE)
    assert options
    for line in options:
        assert len(line.split("  ")) > 2, f"{command}: {line}"


def test_the_shell_offers_every_format() -> None:
    assert get_args(get_args(Format)[0]) == get_args(ContainerName)


def test_every_error_stands_in_the_tree_with_its_code() -> None:
    tree = errors.__doc__ or ""
    for error in errors.all_errors():
        if error.__subclasses__() == []:
            assert re.search(rf"\b{error.__name__}\s+{error.code}\b", tree), error.__name__


def test_every_link_leads_somewhere_and_every_picture_is_in_the_readme() -> None:
    for document in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").glob("*.md")):
        for link in re.findall(r"\]\(([^)#:]+)\)", document.read_text("utf-8")):
            assert (document.parent / link).exists(), f"{document.name}: {link}"
    for picture in (ROOT / "docs" / "screenshots").glob("*.png"):
        assert picture.name in README


def test_no_address_of_a_registry_stands_in_a_lock_file() -> None:
    for name in ("requirements.txt", "requirements-dev.txt", "web/package-lock.json"):
        assert "://registry" not in (ROOT / name).read_text("utf-8")


def test_every_path_that_the_architecture_names_is_there() -> None:
    text = (ROOT / "docs" / "architecture.md").read_text("utf-8") + (ROOT / "CONTRIBUTING.md").read_text("utf-8")
    named = re.findall(r"`((?:src/wedge_turn/|core/|web/|tests/|docs/)[\w./]+)`", text)
    assert len(named) > 15
    for path in named:
        if "NAME" not in path:
            assert any((base / path).exists() for base in (ROOT, ROOT / "src" / "wedge_turn")), path


def test_decisions_are_numbered_as_their_files_are() -> None:
    decisions = sorted((ROOT / "docs" / "decisions").glob("*.md"))
    assert [path.name[:4] for path in decisions] == [f"{n:04}" for n in range(1, len(decisions) + 1)]
    for path in decisions:
        assert path.read_text("utf-8").startswith(f"# {int(path.name[:4])}. "), path.name
