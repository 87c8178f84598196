"""Help for a single turn, and how commands end that were typed wrong."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, NoReturn

import typer
from typer.core import TyperCommand

from wedge_turn.core.errors import BadRequestError, Error, TruncatedError


class TurnHelpCommand(TyperCommand):
    """A command whose `--help` after the name of a turn describes that turn."""

    def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
        words = [arg for arg in args if not arg.startswith("-")]
        if words and "--help" in args:
            from wedge_turn.cli.show import write_turn_help

            with wrong_usage():
                typer.echo(write_turn_help(words[0]))
            ctx.exit()
        return super().parse_args(ctx, args)


@contextmanager
def wrong_usage() -> Iterator[None]:
    """Exit with status 2 if anything in this block is refused: a turn, setting, value or pattern typed wrong."""
    try:
        yield
    except BadRequestError as error:
        exit_with(f"{error.message}. {error.help}", status=2)


def advise(error: Error) -> str:
    """What to do about an error, as one does it in a shell."""
    if isinstance(error, TruncatedError) and error.usable:
        return f"{error.help} Or use what is there with --salvage: {error.usable}."
    return error.help


def exit_with(message: str, status: int = 1) -> NoReturn:
    """Print one line on stderr and exit."""
    line = " ".join(message.split()).encode(errors="replace").decode()
    print(f"wedge-turn: {line}", file=sys.stderr)
    sys.exit(status)
