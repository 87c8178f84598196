"""Running the server."""

import gc
import importlib
import logging
import socket
import threading
from pathlib import Path
from typing import Final

import platformdirs
import typer
import uvicorn

from wedge_turn.api.app import WEBAPP, create_app
from wedge_turn.api.doors import is_local
from wedge_turn.core.warm import warm_up
from wedge_turn.demo import ensure_demo_job
from wedge_turn.store import Store
from wedge_turn.tasks import Event

BEYOND_THIS_MACHINE: Final = (
    "Warning: anyone who can reach this address can hear, change and delete all jobs. There is no password yet."
)


def run_server(*, demo: bool, data: Path | None, host: str, port: int, deliver_to: Path | None) -> None:
    """Serve until interrupted. Raises OSError where the address is taken, DataFolderError."""
    folder = data or Path(platformdirs.user_data_dir("wedge-turn", appauthor=False))
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(name)s: %(message)s")
    logging.getLogger("alembic").setLevel(logging.WARNING)
    listening = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((host, port))
        listening.listen()
    except OSError as error:
        raise OSError(error.errno, f"{error.strerror}: is Wedge Turn running already?", f"{host}:{port}") from error
    store = Store(folder)
    if demo:
        ensure_demo_job(store)
    if not WEBAPP.is_dir():
        typer.echo("The web interface has not been built: only the API is served (make setup builds it).", err=True)
    if not is_local(host):
        typer.echo(BEYOND_THIS_MACHINE, err=True)
    shown = f"[{host}]" if ":" in host else host
    typer.echo(f"Wedge Turn is at http://{shown}:{listening.getsockname()[1]}/  (data in {folder})")
    app = create_app(store, host, deliver_to.resolve() if deliver_to else None)
    threading.Thread(target=preload, daemon=True).start()
    config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=3)
    _Server(config).run(sockets=[listening])


class _Server(uvicorn.Server):
    """Ends the event streams of open windows, for which it would otherwise wait in vain."""

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        self.config.app.state.context.events.publish(Event("ending", ""))  # type: ignore[union-attr]
        await super().shutdown(sockets)


def preload() -> None:
    """Load and compile what answers need, so that none waits for it, and leave it out of later garbage collections,
    which would otherwise stop everything for a quarter of a second now and then to look through it.
    """
    warm_up()
    importlib.import_module("wedge_turn.core.centre.extraction")  # with what else is loaded where it is first needed
    gc.collect()
    gc.freeze()
