"""Proof of delivered files, with hands of its own: opens sources and finished files itself, past the system's cache,
decodes them with its own code, computes the worksheet step by step from plain numbers, and compares every sample.

Standard library, NumPy, Numba and xxhash only, and nothing of `wedge_turn`: what proves shares neither code nor data
with what writes. `recipe` has the numbers, `prove` the proof.
"""

from wedge_turn.proof.evaluate import Fresh, Heard
from wedge_turn.proof.follow import Follower
from wedge_turn.proof.prove import Failure, Proved, prove
from wedge_turn.proof.recipe import File, Form, Promise, Recipe, Source, Step
from wedge_turn.proof.rules import Found, Rule

__all__ = [
    "Failure",
    "File",
    "Follower",
    "Form",
    "Found",
    "Fresh",
    "Heard",
    "Promise",
    "Proved",
    "Recipe",
    "Rule",
    "Source",
    "Step",
    "prove",
]
