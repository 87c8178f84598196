"""What is worth knowing about a file, with the turn that would deal with it, and how both are said.

A remedy whose settings would lie outside what its turn takes is left out: advice is never a reason to fail.
"""

from pydantic import BaseModel, ConfigDict, ValidationError

from wedge_turn.core.turns import TURN_ADAPTER, AnyTurn, Finding
from wedge_turn.core.worksheet import Stretch


class Remedy(BaseModel):
    """A turn that deals with a finding, and those that follow on its result. `label` is the button; `names` what the
    results are called, if not as usual; `over` the range that it is limited to.
    """

    model_config = ConfigDict(frozen=True)

    label: str
    turn: AnyTurn
    followed_by: tuple[AnyTurn, ...] = ()
    names: tuple[str, ...] = ()
    over: Stretch | None = None


def make_remedy(
    label: str,
    kind: str,
    names: tuple[str, ...] = (),
    over: Stretch | None = None,
    followed_by: tuple[AnyTurn, ...] = (),
    **settings: object,
) -> Remedy | None:
    """A remedy, or None where the turn does not take these settings."""
    try:
        turn = TURN_ADAPTER.validate_python({"kind": kind, **settings})
        return Remedy(label=label, turn=turn, followed_by=followed_by, names=names, over=over)
    except ValidationError:
        return None


class FileFinding(Finding):
    """A finding with a short label for a list, and what would deal with it, where turns do: the first choice, and the
    others.
    """

    label: str
    remedy: Remedy | None = None
    others: tuple[Remedy, ...] = ()


def balance_remedy(leans: float) -> Remedy | None:
    """A level that raises the quieter channel to the other; `leans` is by how many dB left is louder."""
    gains = (0.0, round(leans, 2)) if leans > 0 else (round(-leans, 2), 0.0)
    return make_remedy("level", "level", gains_db=gains)


def format_signed(correlation: float) -> str:
    rounded = round(correlation, 2)
    return f"{rounded:+.2f}".replace("-", "−") if rounded else "0.00"


def write_percent(share: float) -> str:
    """Percent as people read them: +5 %."""
    return f"{share:+.3g} %".replace("-", "−")


def capitalize(text: str) -> str:
    """A text as a sentence begins; LFE stays LFE."""
    return text[:1].upper() + text[1:]
