"""Prints the OpenAPI document: `python -m wedge_turn.api.openapi`, run by `make api`."""

import json

from wedge_turn.api.app import openapi

if __name__ == "__main__":
    print(json.dumps(openapi(), indent=1))
