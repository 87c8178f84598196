"""Every string that a user can meet is said in the trade's words: those that went wrong once are searched for."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
FORBIDDEN = {
    "an inverted channel": r"upside[ -]down",
    "channels, not sides": r"\b(both|one|left|right|other|opposite|which) sides?\b",
    "out of polarity": r"\bagainst each other\b|\bgoes? against\b",
    "removed, converted or unpaired": r"\b(take|takes|taken|took) (out|apart|back)\b",
    "an offset": r"\bstands? (off|apart)\b|\bhangs? between\b",
    "a level is, it does not lie": r"\blies? at\b",
    "a channel or an output, not an ear": r"\b(in|both|one|left|right) ears?\b",
    "is not a": r"(?<!there )\bis no (?!longer|more)\w+",
    "supported, or added": r"\b(taken|taking|take) in\b(?! one pass)",
    "archive and restore": r"\bretired?\b|\b(bring|brought) back\b",
    "permanently": r"\bfor good\b",
    "align": r"\blin(e|ed|es) up\b",
    "there is": r"\ball there is\b",
}
HTML = re.compile(r"<!doctype", re.IGNORECASE)
STORED = {"retired"}  # the name of a field in worksheets of earlier versions


def python_strings() -> Iterator[tuple[str, str]]:
    """What Python prints, raises or sends; of docstrings those of turns and of the API, which are shown."""
    for path in sorted((ROOT / "src" / "wedge_turn").rglob("*.py")):
        if "migrations" in path.parts:
            continue
        tree = ast.parse(path.read_text())
        shown = path.parent.name in {"turns", "api"}
        docs = {
            id(node.body[0].value)
            for node in ast.walk(tree)
            if isinstance(node, (ast.Module, ast.ClassDef, ast.FunctionDef))
            and node.body
            and isinstance(node.body[0], ast.Expr)
        }
        for node in ast.walk(tree):
            if isinstance(node, ast.Constant) and isinstance(node.value, str) and (shown or id(node) not in docs):
                yield f"{path.relative_to(ROOT)}:{node.lineno}", node.value


def web_strings() -> Iterator[tuple[str, str]]:
    """Literals of the web's modules, and the text between tags."""
    for path in sorted((ROOT / "web" / "src").rglob("*.ts*")):
        if ".test." in path.name or path.name.endswith((".d.ts", ".gen.ts")):
            continue
        text = re.sub(r"/\*.*?\*/|(?<!:)//[^\n]*", "", path.read_text(), flags=re.DOTALL)
        for match in re.finditer(r'"[^"\n]*"|`[^`]*`|>[^<>{}]*[<{]', text):
            yield (
                f"{path.relative_to(ROOT)}:{text[: match.start()].count(chr(10)) + 1}",
                " ".join(match.group().split()),
            )


def documents() -> Iterator[tuple[str, str]]:
    for path in [
        ROOT / "README.md",
        *sorted((ROOT / "docs").glob("*.md")),
        *sorted((ROOT / "docs" / "guide").glob("*")),
    ]:
        if path.suffix != ".md":
            continue
        for number, line in enumerate(path.read_text().splitlines(), 1):
            yield f"{path.relative_to(ROOT)}:{number}", line


@pytest.mark.parametrize("strings", [python_strings, web_strings, documents])
def test_no_string_uses_words_that_went_wrong(strings: object) -> None:
    read = list(strings())  # type: ignore[operator]
    assert len(read) > 40
    wrong = [
        f"{where}: {text[:90]!r} (say it as: {better})"
        for where, text in read
        for better, words in FORBIDDEN.items()
        if re.search(words, text, re.IGNORECASE) and not HTML.match(text) and text not in STORED
    ]
    assert not wrong, "\n".join(wrong)


@pytest.mark.parametrize(
    "text",
    [
        "Right is turned upside down.",
        "Both sides are the same.",
        "The sides go against each other.",
        "x is no WAV file",
    ],
)
def test_the_search_finds_forbidden_words(text: str) -> None:
    assert any(re.search(words, text, re.IGNORECASE) for words in FORBIDDEN.values())
