"""Writes `docs/turns.md` from the turns themselves: `python -m wedge_turn.core.turns.document`, run by `make api`."""

import sys
from typing import Final, Literal, get_args, get_origin

from wedge_turn.core.turns import TURNS
from wedge_turn.core.turns.accepts import words

_TYPE_NAMES: Final = {"bool": "`true`, `false`", "float": "number", "int": "whole numbers"}


def document() -> str:
    """Every turn: what its module says, and its settings with their defaults."""
    parts = ["# The turns\n\nGenerated from the turns by `make api`.\n"]
    for kind, turn in TURNS.items():
        parts.append(f"\n## {kind}\n\nTakes {words(turn.accepts)}.\n\n{sys.modules[turn.__module__].__doc__}\n")
        parts.append("\n| setting | default | values | what it is |\n| --- | --- | --- | --- |\n")
        for name, field in turn.model_fields.items():
            if name != "kind":
                values = ", ".join(f"`{value}`" for value in _words(field.annotation))
                default = ",".join(map(str, field.default)) if isinstance(field.default, tuple) else field.default
                parts.append(
                    f"| `{name}` | `{default}` | {values or _kind(field.annotation)} | {field.description} |\n"
                )
    return "".join(parts)


def _words(annotation: object) -> list[str]:
    """The words among the values of a setting."""
    words: list[str] = []
    for argument in get_args(annotation):
        words += [argument] if isinstance(argument, str) and get_origin(annotation) is Literal else _words(argument)
    return words


def _kind(annotation: object) -> str:
    written = str(annotation)
    return next((label for name, label in _TYPE_NAMES.items() if name in written), "text")


if __name__ == "__main__":
    sys.stdout.write(document())
