"""Help for a single turn, and how commands end that were typed wrong."""

import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Final, NoReturn

import typer
from typer.core import TyperCommand

from wedge_turn.core.errors import BadRequestError, Error, NotFoundError, TruncatedError


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


def complete_turn(typed: str) -> list[tuple[str, str]]:
    """The turns that begin so, each with what it does, as a shell offers them."""
    from wedge_turn.core.turns import TURNS, describe_turn

    return [(kind, describe_turn(turn).split("\n")[0]) for kind, turn in TURNS.items() if kind.startswith(typed)]


@contextmanager
def wrong_usage() -> Iterator[None]:
    """Exit with status 2 if anything in this block is refused: a turn, setting, value or pattern typed wrong."""
    try:
        yield
    except BadRequestError as error:
        exit_with(f"{error.message}. {error.help}", status=2)


# What help says of the application's page, as one does it here.
_IN_A_SHELL: Final = {
    "exists": "Choose another folder for --out, or add --overwrite.",
    "rate-differs": "Add --rate lowest, or a rate such as --rate 48000, to resample the others to it.",
    "outside-range": "Change the range, or leave these files out.",
    "side-unknown": "Give the left file first and add --set order=given.",
    "turn-input": "wedge-turn apply TURN --help says what a turn takes.",
}


def list_files(paths: Sequence[Path]) -> list[Path]:
    """Files, and of folders the audio files in them, by name, without hidden ones. Raises NotFoundError for a folder
    that has none.
    """
    from wedge_turn.core.naming import is_named_as_sound

    files: list[Path] = []
    for path in paths:
        if not path.is_dir():
            files.append(path)
            continue
        inside = sorted(
            file for file in path.iterdir() if is_named_as_sound(file.name) and not file.name.startswith(".")
        )
        if not any(file.is_file() for file in inside):
            raise NotFoundError(
                f"{path.name or path} is a folder without audio files",
                help="Give a folder that has some; wedge-turn prep goes through folders within folders.",
            )
        files += [file for file in inside if file.is_file()]
    return files


def advise(error: Error) -> str:
    """What to do about an error, as one does it in a shell."""
    if isinstance(error, TruncatedError) and error.usable:
        return f"{error.help} Or use what is there with --salvage: {error.usable}."
    said_otherwise = error.help != type(error).help
    return error.help if said_otherwise else _IN_A_SHELL.get(error.code, error.help)


def exit_with(message: str, status: int = 1) -> NoReturn:
    """Print one line on stderr and exit."""
    line = " ".join(message.split()).encode(errors="replace").decode()
    print(f"wedge-turn: {line}", file=sys.stderr)
    sys.exit(status)
