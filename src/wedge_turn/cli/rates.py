"""Sample rates as they are given in a shell: in Hz, in kHz as 44.1k, or as that of a file."""

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wedge_turn.core.worksheet import RateChoice


def parse_rate_choice(text: str) -> "RateChoice":
    """The rate that files are resampled to before they go into a turn together. Raises BadRequestError."""
    from wedge_turn.core.turns import Resample
    from wedge_turn.core.worksheet import parse_turn

    match text:
        case "lowest" | "highest":
            return text
    turn = parse_turn("resample", resolve_rate({"rate": text}))
    assert isinstance(turn, Resample)
    return turn.rate


def resolve_rate(settings: dict[str, str]) -> dict[str, str]:
    """Settings of a turn where `rate` may name a file whose sample rate is meant. Raises what opening it raises."""
    path = Path(settings.get("rate", ""))
    if not path.is_file():
        return settings
    from wedge_turn.core.session import Session

    with Session.open([path]) as session:
        return {**settings, "rate": str(session.infos["0"].form.rate)}
