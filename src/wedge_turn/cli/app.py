"""The program that commands belong to."""

from typing import Annotated

import typer

from wedge_turn import __version__

app = typer.Typer(
    no_args_is_help=True, pretty_exceptions_enable=False, rich_markup_mode=None,
    help="Split, merge, swap, invert and decode the channels of audio files, verified sample for sample.",
)  # fmt: skip


def _print_version(is_asked: bool) -> None:
    if is_asked:
        typer.echo(f"wedge-turn {__version__}")
        raise typer.Exit


@app.callback()
def root(
    version: Annotated[
        bool, typer.Option("--version", callback=_print_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    pass
