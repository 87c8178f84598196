"""Running the server."""

import os
import socket
import threading
import webbrowser
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import platformdirs
import typer
import uvicorn

from wedge_turn.api.app import WEBAPP, create_app
from wedge_turn.api.context import MAX_FILE_BYTES
from wedge_turn.api.doors import is_local
from wedge_turn.cli.logs import start_logging
from wedge_turn.core.errors import BadRequestError
from wedge_turn.store import Store
from wedge_turn.tasks import Event

PASSWORD: Final = "WEDGE_TURN_PASSWORD"
NO_PASSWORD: Final = (
    "This address can be reached from other machines, and no password is set: set one with wedge-turn password, or in "
    f"the environment as {PASSWORD}"
)
NO_TLS: Final = (
    "Warning: without TLS the password can be read on its way. Give --certificate and --key, or serve behind a proxy."
)


@dataclass(frozen=True)
class Serving:
    """How the application is served: where, from which data, to whom, and how much of it."""

    demo: bool = False
    data: Path | None = None
    host: str = "127.0.0.1"
    port: int = 8470
    deliver_to: Path | None = None
    certificate: Path | None = None
    key: Path | None = None
    largest_file: float | None = None  # GB
    cluster: str | None = None
    open_page: bool = False  # in this machine's browser


def data_folder(data: Path | None) -> Path:
    return data or Path(platformdirs.user_data_dir("wedge-turn", appauthor=False))


def set_password(data: Path | None, password: str) -> None:
    """Set the password of the server that has this data folder. Raises BadRequestError, DataFolderError."""
    store = Store(data_folder(data))
    try:
        store.access.set_password(password)
    finally:
        store.close()


def run_server(how: Serving) -> None:
    """Serve until interrupted. Raises OSError where the address is taken, DataFolderError, BadRequestError."""
    folder, host, port = data_folder(how.data), how.host, how.port
    if (how.certificate is None) != (how.key is None):
        raise BadRequestError("TLS needs both --certificate and --key")
    start_logging()
    listening = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((host, port))
        listening.listen()
    except OSError as error:
        raise OSError(error.errno, f"{error.strerror}: is Wedge Turn running already?", f"{host}:{port}") from error
    with listening:
        _serve_on(listening, folder, how)


def _serve_on(listening: socket.socket, folder: Path, how: Serving) -> None:
    host = how.host
    store = Store(folder)
    guarded = not is_local(host)
    if guarded:
        _ensure_password(store)
    if not WEBAPP.is_dir():
        typer.echo("The web interface has not been built: only the API is served (make setup builds it).", err=True)
    if guarded and how.certificate is None:
        typer.echo(NO_TLS, err=True)
    address_host, scheme = f"[{host}]" if ":" in host else host, "https" if how.certificate else "http"
    address = f"{scheme}://{address_host}:{listening.getsockname()[1]}/"
    typer.echo(f"Wedge Turn is at {address}  (data in {folder})")
    app = create_app(
        store,
        host,
        how.deliver_to.resolve() if how.deliver_to else None,
        guarded=guarded,
        largest_file=int(how.largest_file * 1e9) if how.largest_file else MAX_FILE_BYTES,
        cluster=how.cluster,
        demo=how.demo,
    )
    config = uvicorn.Config(
        app,
        log_config=None,
        log_level="warning",
        timeout_graceful_shutdown=3,
        ssl_certfile=how.certificate,
        ssl_keyfile=how.key,
    )
    if how.open_page:  # in a thread: some browsers block until the page has loaded
        threading.Thread(target=open_page, args=(address,), name="open", daemon=True).start()
    _Server(config).run(sockets=[listening])


def open_page(address: str) -> None:
    """Open the page in this machine's browser; without one, print its address."""
    if not webbrowser.open(address):
        typer.echo(f"No browser was found on this machine. Open {address} yourself.", err=True)


def _ensure_password(store: Store) -> None:
    """The password of the environment, where there is one; else one must have been set. Raises BadRequestError."""
    password = os.environ.get(PASSWORD)
    if password and not store.access.is_password(password):
        store.access.set_password(password)
    if not store.access.has_password:
        store.close()
        raise BadRequestError(NO_PASSWORD)


class _Server(uvicorn.Server):
    """Ends the event streams of open windows, for which it would otherwise wait in vain."""

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        self.config.app.state.context.events.publish(Event("ending", ""))  # type: ignore[union-attr]
        await super().shutdown(sockets)
