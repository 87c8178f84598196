"""The commands about the server, its data and the demo."""

import json
from pathlib import Path
from typing import Annotated

import typer

from wedge_turn.cli.app import app
from wedge_turn.cli.options import Data, Json


@app.command()
def serve(
    demo: Annotated[bool, typer.Option("--demo", help="Open with the job Kettle Island Light.")] = False,
    data: Data = None,
    host: Annotated[str, typer.Option(help="The address to listen on.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=0, max=65535, help="The port to listen on.")] = 8470,
    deliver_to: Annotated[
        Path | None,
        typer.Option(metavar="DIR", file_okay=False, help="A folder on this machine that deliveries may go into."),
    ] = None,
    certificate: Annotated[
        Path | None, typer.Option(metavar="FILE", dir_okay=False, exists=True, help="A certificate for TLS, as PEM.")
    ] = None,
    key: Annotated[
        Path | None, typer.Option(metavar="FILE", dir_okay=False, exists=True, help="The key of the certificate.")
    ] = None,
    largest_file: Annotated[
        float | None, typer.Option(metavar="GB", min=0.001, help="The largest file that may be added.")
    ] = None,
    cluster: Annotated[
        str | None,
        typer.Option(metavar="ADDRESS", help="Have the workers of a Dask cluster write deliveries: tcp://host:8786."),
    ] = None,
    open_page: Annotated[bool, typer.Option("--open", help="Open the page in this machine's browser.")] = False,
) -> None:
    """Serve the application to a browser. Beyond this machine it asks for a password."""
    from wedge_turn.cli.serving import Serving, run_server

    run_server(Serving(demo, data, host, port, deliver_to, certificate, key, largest_file, cluster, open_page))


@app.command()
def password(data: Data = None) -> None:
    """Set the password that a server asks for beyond this machine, and sign everybody out."""
    from wedge_turn.cli.serving import set_password

    set_password(data, typer.prompt("Password", hide_input=True, confirmation_prompt=True))
    typer.echo("The password is set.")


@app.command()
def demo(folder: Annotated[Path, typer.Argument(metavar="DIR", help="The folder to write into.")]) -> None:
    """Write the demo's files."""
    from wedge_turn.demo import write_demo_files

    for path in write_demo_files(folder):
        typer.echo(path)


@app.command()
def doctor(data: Data = None, as_json: Json = False) -> None:
    """Check the data folder, the database, every kept file, the disk, the kernels and the interface."""
    from dataclasses import asdict

    from wedge_turn.cli.doctor import run_checks
    from wedge_turn.cli.serving import data_folder

    messages = []
    for check in run_checks(data_folder(data)):
        messages.append(check)
        if not as_json:
            typer.echo(f"{'ok     ' if check.well else 'PROBLEM'} {check.name}: {check.found}")
            if not check.well:
                typer.echo(f"        {check.advice}")
    if as_json:
        typer.echo(json.dumps([asdict(check) for check in messages], indent=1))
    if ill := [check.name for check in messages if not check.well]:
        typer.echo(f"wedge-turn: problems with {', '.join(ill)}", err=True)
        raise typer.Exit(1)
