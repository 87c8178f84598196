"""Writes `docs/turns.md` from the turns themselves: `python -m wedge_turn.core.turns.document`, run by `make api`."""

import sys
from typing import get_args

from wedge_turn.core.turns import TURNS


def document() -> str:
    """Every turn: what its module says, and its settings with their defaults."""
    parts = ["# The turns\n\nGenerated from the turns by `make api`.\n"]
    for kind, turn in TURNS.items():
        parts.append(f"\n## {kind}\n\nTakes {turn.takes}.\n\n{sys.modules[turn.__module__].__doc__}\n")
        parts.append("\n| setting | default | values | what it is |\n| --- | --- | --- | --- |\n")
        for name, field in turn.model_fields.items():
            if name != "kind":
                values = ", ".join(f"`{value}`" for value in get_args(field.annotation) if isinstance(value, str))
                default = ",".join(field.default) if isinstance(field.default, tuple) else field.default
                parts.append(f"| `{name}` | `{default}` | {values or 'text'} | {field.description} |\n")
    return "".join(parts)


if __name__ == "__main__":
    sys.stdout.write(document())
