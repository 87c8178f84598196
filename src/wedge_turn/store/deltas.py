"""Plans stored by what differs from an earlier one: a worksheet of 300 lines is 80 kB of JSON, a moved setting less
than 1 kB.

    {"version": 3, "steps": [[0, 7], {"id": …}, [8, 300]], "archived": […], …}

`[first, end]` stands for steps of the earlier plan, which is stored whole; so is everything but the steps.
"""

import json
from typing import Any, Final

Stored = dict[str, Any]
WORTH_IT: Final = 4  # times smaller than the whole


def pack(plan: Stored, base: Stored) -> Stored | None:
    """A plan by what differs from `base`; None where that is hardly smaller, or another version wrote the base."""
    if base.get("version") != plan["version"]:
        return None
    places = {step["id"]: n for n, step in enumerate(base["steps"])}
    steps: list[Any] = []
    for step in plan["steps"]:
        at = places.get(step["id"])
        if at is None or base["steps"][at] != step:
            steps.append(step)
        elif steps and isinstance(steps[-1], list) and steps[-1][1] == at:
            steps[-1][1] = at + 1
        else:
            steps.append([at, at + 1])
    delta = {**plan, "steps": steps}
    return delta if len(json.dumps(delta)) * WORTH_IT <= len(json.dumps(plan)) else None


def unpack(delta: Stored, base: Stored) -> Stored:
    """The whole plan. Raises KeyError, TypeError or ValueError for what is none."""
    steps: list[Any] = []
    for step in delta["steps"]:
        if isinstance(step, list):
            first, end = step
            steps += base["steps"][first:end]
        else:
            steps.append(step)
    return {**delta, "steps": steps}
