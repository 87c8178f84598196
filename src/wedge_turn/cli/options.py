"""The arguments and options that several commands have."""

from pathlib import Path
from typing import Annotated, Literal

import typer

Files = Annotated[
    list[Path],
    typer.Argument(
        metavar="FILE...", help="Audio files, or folders of them, or - for standard input; they are never changed."
    ),
]
Out = Annotated[Path, typer.Option(metavar="DIR", help="The folder to write into.")]
Depth = Annotated[Literal["same", "16", "24", "32", "float"], typer.Option(help="The bit depth to write.")]
Dither = Annotated[bool, typer.Option("--dither/--no-dither", help="Dither where the depth is too small.")]
Overwrite = Annotated[bool, typer.Option("--overwrite", help="Replace files of the same names.")]
Format = Annotated[Literal["wav", "bw64", "flac", "aiff"], typer.Option("--format", help="The format to write.")]
Name = Annotated[str, typer.Option(metavar="PATTERN", help="What the files are called, as {n:03}_{name}_{date}.")]
Data = Annotated[Path | None, typer.Option(metavar="DIR", help="Where jobs and files are kept.")]
Processes = Annotated[int, typer.Option(metavar="N", min=1, max=64, help="How many processes share the work.")]
Cluster = Annotated[
    str | None,
    typer.Option(metavar="ADDRESS", help="Share the work among the workers of a Dask cluster: tcp://host:8786."),
]
Rate = Annotated[
    str | None,
    typer.Option(
        metavar="RATE",
        help="Resample files at other rates first: to 48000, 44.1k, lowest, highest, or the rate of a FILE.",
    ),
]
Resume = Annotated[
    bool, typer.Option("--resume", help="Skip what an earlier run with --resume wrote, where nothing has changed.")
]
Salvage = Annotated[bool, typer.Option("--salvage", help="Use what can be read of incomplete files.")]
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help="Print only what went wrong.")]
Json = Annotated[bool, typer.Option("--json", help="Print one JSON object instead of words.")]
