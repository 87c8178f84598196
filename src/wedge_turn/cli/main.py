"""The commands on files. Each imports what it needs when it runs, so that none waits for what it doesn't use.

Exit status: 0 done, 1 refused or failed with one clear line on stderr, 2 wrong usage: no such command, option, turn,
setting or value.
"""

import json
import os
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from wedge_turn.cli import server_commands  # noqa: F401  # which adds its commands
from wedge_turn.cli.app import app
from wedge_turn.cli.libraries import silence_libraries
from wedge_turn.cli.memory import collect_seldom, share_one_heap
from wedge_turn.cli.options import (
    Cluster,
    Depth,
    Dither,
    Files,
    Format,
    Json,
    Name,
    Out,
    Overwrite,
    Processes,
    Quiet,
    Rate,
    Resume,
    Salvage,
)
from wedge_turn.cli.stopping import leave_on_signals
from wedge_turn.cli.usage import TurnHelpCommand, advise, complete_turn, exit_with, list_files, wrong_usage
from wedge_turn.core.errors import Error

__all__ = ["app", "main"]


@app.command()
def inspect(
    files: Files,
    quick: Annotated[
        bool, typer.Option("--quick", help="Read what the files say of themselves; measure nothing.")
    ] = False,
    salvage: Salvage = False,
    as_json: Json = False,
) -> None:
    """Say what each file is, and which belong together."""
    from wedge_turn.cli.inspecting import inspect_files, print_inspection
    from wedge_turn.cli.piping import receive_input

    with receive_input(list_files(files)) as paths:
        report = inspect_files(paths, quick=quick, salvage=salvage)
    if as_json:
        typer.echo(json.dumps(report, indent=1))
    else:
        print_inspection(report)
    for refused in report["refused"]:
        typer.echo(f"wedge-turn: {refused['message']}. {refused['help']}", err=True)
    if report["refused"]:
        raise typer.Exit(1)


@app.command(cls=TurnHelpCommand)
def apply(
    turn: Annotated[
        str, typer.Argument(metavar="TURN", help="What to do: split, merge, swap, …", autocompletion=complete_turn)
    ],
    files: Files,
    out: Out,
    settings: Annotated[
        list[str] | None, typer.Option("--set", metavar="NAME=VALUE", help="A setting of the turn.")
    ] = None,
    over: Annotated[
        str | None,
        typer.Option(
            "--only",
            "--over",
            metavar="START-END",
            help="Turn only this range of each file: 62-90.5, 1:02-1:30, 48000s-end.",
        ),
    ] = None,
    fade: Annotated[
        float, typer.Option(metavar="MS", min=0, max=10_000, help="How long the fades at the ends of --only are.")
    ] = 10.0,
    keep: Annotated[
        str | None, typer.Option("--trim", "--range", metavar="START-END", help="Write only this range of each result.")
    ] = None,
    recorded: Annotated[
        bool, typer.Option("--time-of-day", "--recorded", help="--trim is by the clock: 10:42:00-10:44:30.")
    ] = False,
    rate: Rate = None,
    depth: Depth = "same",
    container: Format = "wav",
    name: Name = "{name}",
    dither: Dither = True,
    overwrite: Overwrite = False,
    salvage: Salvage = False,
    resume: Resume = False,
    processes: Processes = 1,
    cluster: Cluster = None,
    quiet: Quiet = False,
    as_json: Json = False,
) -> None:
    """Apply one turn to files, prove it on what was written, and write a manifest. Its settings: apply TURN --help."""
    from wedge_turn.cli.executors import open_executor, open_folder_executor
    from wedge_turn.cli.piping import receive_input, send_output
    from wedge_turn.cli.rates import parse_rate_choice, resolve_rate
    from wedge_turn.cli.show import Beforehand, print_result, result, show_progress

    beforehand = Beforehand()
    with (
        receive_input(list_files(files)) as paths,
        send_output(out) as folder,
        open_executor(processes, cluster, open_folder_executor(paths), folder) as executor,
    ):
        # Loaded while the other processes load theirs.
        from wedge_turn.core.delivery import Order
        from wedge_turn.core.naming import parse_naming
        from wedge_turn.core.session import turn_files
        from wedge_turn.core.worksheet import parse_stretch, parse_trim, parse_turn, plan_turn

        with wrong_usage():
            naming = parse_naming(name)
            chosen = parse_turn(turn, resolve_rate(dict(_setting(text) for text in settings or [])))
            trim = parse_trim(keep, recorded=recorded) if keep else None
            stretch = parse_stretch(over, fade) if over else None
            one_rate = parse_rate_choice(rate) if rate else None
        with show_progress() as progress:
            manifest = turn_files(
                paths,
                lambda infos: plan_turn(chosen, infos, stretch, one_rate),
                folder,
                lambda refs: Order(
                    refs, depth, dither=dither, range=trim, overwrite=overwrite, container=container, naming=naming
                ),
                progress,
                beforehand,
                executor,
                resume=resume,
                salvage=salvage,
            )
    # Standard output may be the file itself.
    on_stderr = out != folder
    if as_json:
        typer.echo(json.dumps(result(manifest, out, beforehand), indent=1), err=on_stderr)
    elif not quiet:
        print_result(manifest, out, beforehand, on_stderr=on_stderr)


@app.command()
def suggest(
    what: Annotated[
        Literal["hushes", "delay", "blend"],
        typer.Argument(
            metavar="WHAT",
            help="hushes, where a channel has only spill; delay, that aligns the channels; or blend, the best sum.",
        ),
    ],
    files: Files,
    level: Annotated[float, typer.Option(metavar="DB", min=-144, max=0, help="By how much hushes lower.")] = -12.0,
    threshold: Annotated[
        float | None,
        typer.Option(metavar="DB", min=3, max=40, help="How much quieter than the loudest other spill is."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Measure a file, or files side by side, and print the turn that suits it as `apply` takes it."""
    from wedge_turn.cli.piping import receive_input
    from wedge_turn.cli.suggesting import suggest as find

    with receive_input(list_files(files)) as paths:
        turn, measured = find(what, paths, level, threshold)
    typer.echo(json.dumps({"turn": turn, "found": measured}) if as_json else turn)
    if not as_json:
        typer.echo(measured, err=True)


@app.command()
def prep(
    folder: Annotated[Path, typer.Argument(metavar="FOLDER", help="A folder of audio files; they are never changed.")],
    out: Out,
    only: Annotated[
        list[str] | None, typer.Option(metavar="CODE", help="Do only this: a finding, such as dual-mono, or a turn.")
    ] = None,
    skip: Annotated[
        list[str] | None, typer.Option(metavar="CODE", help="Leave this out: a finding, or a turn.")
    ] = None,
    depth: Depth = "same",
    container: Format = "wav",
    salvage: Salvage = False,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Print what would be done, and write nothing.")] = False,
    overwrite: Overwrite = False,
    resume: Annotated[
        bool, typer.Option("--resume", help="Continue an earlier run: skip folders that have not changed.")
    ] = False,
    processes: Processes = 1,
    cluster: Cluster = None,
    as_json: Json = False,
    as_lines: Annotated[
        bool, typer.Option("--json-lines", help="Print one JSON object per line as the work proceeds, then a summary.")
    ] = False,
) -> None:
    """Prepare a whole folder: merge what belongs together, fold dual mono and silent channels, split poly files
    whose channels are named.

    Everything else is copied unchanged; what takes a judgement by ear is listed.
    """
    from wedge_turn.cli import preparing
    from wedge_turn.cli.executors import FOLDERS, open_executor
    from wedge_turn.core.batch import Choice, Tree

    choice = Choice(frozenset(only or ()), frozenset(skip or ()))
    folder, out = (folder.resolve(), out.resolve()) if cluster else (folder, out)
    tree = Tree(
        folder,
        None if dry_run else out,
        choice,
        depth,
        container,
        overwrite=overwrite,
        resume=resume,
        may_repeat=cluster is not None,
        salvage=salvage,
    )
    with open_executor(processes, cluster, [folder], tree.out, FOLDERS) as executor:
        if as_lines:
            prepared, summary = preparing.stream(tree, executor)
            for entry in prepared:
                typer.echo(json.dumps(entry))
            raise typer.Exit(1 if summary.refused else 0)
        folders = preparing.prepare(tree, executor)
    if as_json:
        typer.echo(json.dumps(preparing.as_json(folders, dry_run=dry_run), indent=1))
    else:
        for sentence in preparing.sentences(folders, dry_run=dry_run):
            typer.echo(sentence)
    if refused := preparing.describe_refusal(folders):
        for line in refused:
            typer.echo(f"wedge-turn: {line}", err=True)
        raise typer.Exit(1)


@app.command()
def run(
    recipe: Annotated[Path, typer.Argument(metavar="RECIPE", help="A recipe, as the application exports it.")],
    files: Files,
    out: Out,
    by: Annotated[
        Literal["role", "name", "order"],
        typer.Option(
            "--match",
            "--by",
            help="Which file takes which role: by what its name says (role), by the name it had (name), in order.",
        ),
    ] = "role",
    depth: Depth = "same",
    container: Format = "wav",
    name: Name = "{name}",
    dither: Dither = True,
    overwrite: Overwrite = False,
    salvage: Salvage = False,
    resume: Resume = False,
    processes: Processes = 1,
    cluster: Cluster = None,
    quiet: Quiet = False,
    as_json: Json = False,
) -> None:
    """Apply a recipe to files as often as they have its roles, prove it on what was written, and write a manifest."""
    from wedge_turn.cli.executors import open_executor, open_folder_executor
    from wedge_turn.cli.running import run_recipe
    from wedge_turn.cli.show import Beforehand, describe_result, print_result, result
    from wedge_turn.core.delivery import Order
    from wedge_turn.core.naming import parse_naming

    with wrong_usage():
        naming = parse_naming(name)
    beforehand, files = Beforehand(), list_files(files)
    with open_executor(processes, cluster, open_folder_executor(files), out) as executor:
        manifest, left_over = run_recipe(
            recipe,
            files,
            out,
            by,
            lambda refs: Order(refs, depth, dither=dither, overwrite=overwrite, container=container, naming=naming),
            beforehand,
            executor,
            resume=resume,
            salvage=salvage,
        )
    if as_json:
        report = {**result(manifest, out, beforehand), "left_over": [describe_result(path) for path in left_over]}
        typer.echo(json.dumps(report, indent=1))
        return
    if quiet:
        return
    print_result(manifest, out, beforehand)
    if left_over:
        typer.echo(f"Not used: {', '.join(describe_result(path) for path in left_over)}.")


@app.command()
def verify(
    folder: Annotated[
        Path, typer.Argument(metavar="DIR", help="A folder of delivered files, or a tree of them as prep makes it.")
    ],
    sources: Annotated[
        Path | None,
        typer.Option(metavar="DIR", help="A folder with the sources, under whatever names: prove every sample again."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Check the files of a delivery, or of every delivery in a tree, against their manifests; with the sources, prove
    them again.
    """
    from wedge_turn.cli.verifying import print_verification, verify_folder

    report = verify_folder(folder, sources)
    if as_json:
        typer.echo(json.dumps(report, indent=1))
    else:
        print_verification(report)
    for finding in report["findings"]:
        typer.echo(finding["message"], err=True)
    if not report["ok"]:
        raise typer.Exit(1)


def _setting(text: str) -> tuple[str, str]:
    name, equals, value = text.partition("=")
    if not equals or not name:
        raise typer.BadParameter(f"{text!r}: write NAME=VALUE", param_hint="--set")
    return name, value


def main(arguments: list[str] | None = None) -> Any:
    """Run a command; whatever goes wrong becomes one line on stderr and a status that is not 0."""
    share_one_heap()
    collect_seldom()
    leave_on_signals()
    silence_libraries()
    try:
        return app(args=arguments, standalone_mode=True)
    except Error as error:
        exit_with(f"{error.message}. {advise(error)}")
    except OSError as error:
        name = f"{Path(os.fsdecode(error.filename)).name}: " if error.filename else "the output could not be written: "
        exit_with(f"{name}{error.strerror or error}")
    except Exception as error:
        exit_with(f"internal error ({type(error).__name__}: {error}). Please report it")


if __name__ == "__main__":
    main()
