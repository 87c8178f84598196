"""`-` for a file: what comes on standard input goes in, and the one result goes out on standard output."""

import shutil
import sys
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Final

from wedge_turn.core.errors import BadRequestError

DASH: Final = Path("-")
_FOLDER: Final = "wedge-turn-standard-input-"


def is_from_pipe(path: Path) -> bool:
    """Whether a file is what came on standard input."""
    return path.parent.name.startswith(_FOLDER)


@contextmanager
def receive_input(paths: Sequence[Path]) -> Iterator[list[Path]]:
    """The files, with what comes on standard input in the place of `-`.

    Raises BadRequestError for more than one `-`.
    """
    if paths.count(DASH) > 1:
        raise BadRequestError("Standard input was given more than once", help="Write - for one of the files.")
    with ExitStack() as stack:
        if DASH in paths:
            stored = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix=_FOLDER))) / "stdin"
            with stored.open("wb") as file:
                shutil.copyfileobj(sys.stdin.buffer, file, 1 << 20)
            paths = [stored if path == DASH else path for path in paths]
        yield list(paths)


@contextmanager
def send_output(out: Path) -> Iterator[Path]:
    """The folder to write into; where that is `-`, one of its own, whose only audio file then goes to standard output.

    Raises BadRequestError where standard output is a terminal, or there is more than one result.
    """
    if out != DASH:
        yield out
        return
    if sys.stdout.isatty():
        raise BadRequestError("A file can't be printed on a terminal", help="Send it on with | or >.")
    with tempfile.TemporaryDirectory(prefix="wedge-turn-") as folder:
        yield Path(folder)
        files = [path for path in Path(folder).iterdir() if path.suffix not in (".json", ".html")]
        if len(files) != 1:
            raise BadRequestError(
                f"There are {len(files)} results, and standard output takes one", help="Give a folder for --out."
            )
        with files[0].open("rb") as file:
            shutil.copyfileobj(file, sys.stdout.buffer, 1 << 20)
        sys.stdout.buffer.flush()
