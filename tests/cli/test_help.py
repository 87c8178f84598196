"""What the shell says of itself: version, help of each turn, refusals of what is not there, a page that opens."""

import re
import shlex
import sys
import webbrowser
from pathlib import Path

import pytest
import typer

import wedge_turn
from support.helpers import noise, write_wav
from support.serving import served
from support.shell import run
from support.waiting import until
from wedge_turn.cli.serving import open_page
from wedge_turn.core.turns import TURNS


def test_the_version_is_printed() -> None:
    assert run("--version").stdout == f"wedge-turn {wedge_turn.__version__}\n"


@pytest.mark.parametrize("kind", TURNS)
def test_the_help_of_a_turn_has_its_settings_with_their_values_and_an_example_that_works(
    kind: str, tmp_path: Path
) -> None:
    told = run("apply", kind, "--help")
    assert told.returncode == 0
    settings = set(re.findall(r"^  (\w+)  ", told.stdout, re.MULTILINE))
    assert settings == set(TURNS[kind].model_fields) - {"kind"}
    example = shlex.split(told.stdout.split("Example:")[1])
    for n, name in enumerate(name for name in example if name.endswith(".wav")):
        channels = TURNS[kind].example.channels[n]
        write_wav(tmp_path / name, noise(n, 2_000, channels, 20))
    done = run(*example[1:], cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    assert list((tmp_path / "OUT").glob("*.wav"))


def test_limits_stand_in_the_help_and_the_document() -> None:
    for text in (run("apply", "decode", "--help").stdout, Path("docs/turns.md").read_text("utf-8")):
        assert "-60 to 12, off" in text
    assert "whole numbers 1 to 64, separated by commas" in run("apply", "split", "--help").stdout


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["nothing", "--help"], "There is no turn called nothing"),
        (["nothing", "a.wav", "--out", "o"], "There is no turn called nothing"),
        (["swap", "a.wav", "--out", "o", "--set", "law=full"], "swap has no setting called law"),
        (["fold", "a.wav", "--out", "o", "--set", "law=9"], "law=9 is not allowed; use average, power, full"),
        (["split", "a.wav", "--out", "o", "--set", "endings=a"], "use text, separated by commas (2 values)"),
        (["swap", "a.wav", "--out", "o", "--name", "{no}"], "{no}"),
        (["width", "a.wav", "--out", "o", "--set", "width=9"], "width=9 is not allowed; use 0 to 4"),
        (["level", "a.wav", "--out", "o", "--set", "gains_db=0,900"], "use -144 to 48, separated by commas"),
        (["level", "a.wav", "--out", "o", "--set", "hush=no"], "“no” isn't a hush"),
        (["swap", "a.wav", "--out", "o", "--trim", "soon"], "“soon” isn't a range"),
    ],
)
def test_what_is_not_there_is_wrong_usage_and_nothing_is_written(words: list[str], said: str, tmp_path: Path) -> None:
    write_wav(tmp_path / "a.wav", noise(1, 1_000, 2))
    done = run("apply", *words, cwd=tmp_path)
    assert (done.returncode, said in done.stderr, done.stderr.count("\n")) == (2, True, 1), done.stderr
    assert not (tmp_path / "o").exists()


def test_the_page_is_opened_in_the_browser_of_this_machine(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """By a browser that asks for the page and keeps what it was answered."""
    page = tmp_path / "page.html"
    browser = write_script(tmp_path / "browser", f"{sys.executable} - \"$1\" <<'END'\n{FETCH.format(page=page)}\nEND\n")
    monkeypatch.setenv("BROWSER", f"{browser} %s")
    with served(tmp_path / "data", "--open"):
        until(page.exists)
    assert "Wedge Turn" in page.read_text()


def test_where_there_is_no_browser_the_address_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(webbrowser, "open", lambda _: False)
    told: list[str] = []
    monkeypatch.setattr(typer, "echo", lambda text, **_: told.append(text))
    open_page("http://127.0.0.1:8470/")
    assert told == ["No browser was found on this machine. Open http://127.0.0.1:8470/ yourself."]


FETCH = """import sys, urllib.request
from pathlib import Path
page = urllib.request.urlopen(sys.argv[1]).read()
Path("{page}.part").write_bytes(page)
Path("{page}.part").rename("{page}")"""


def write_script(path: Path, text: str) -> Path:
    path.write_text(f"#!/bin/sh\n{text}")
    path.chmod(0o755)
    return path
