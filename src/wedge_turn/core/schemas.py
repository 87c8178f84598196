"""Prints the JSON Schema of a file for other programs: `python -m wedge_turn.core.schemas recipe`, or `manifest`."""

import json
import sys
from collections.abc import Callable
from typing import Any, Final

from wedge_turn.core import recipe
from wedge_turn.core.delivery import manifest

SCHEMAS: Final[dict[str, Callable[[], dict[str, Any]]]] = {"recipe": recipe.schema, "manifest": manifest.schema}

if __name__ == "__main__":
    sys.stdout.write(json.dumps(SCHEMAS[sys.argv[1]](), indent=1, ensure_ascii=False) + "\n")
