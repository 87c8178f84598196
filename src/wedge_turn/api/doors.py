"""Who may ask what: the application's own pages on its own address, and nobody else's.

A page of another site can make a browser send requests here, under this address or under a name of its own that it
lets point here. So the host asked for must be one of ours, and what changes something must come from one of our pages,
which a browser says in `Origin` or `Sec-Fetch-Site`. Other programs send neither. Bodies but those of
files are bounded before anything reads them.
"""

import ipaddress
import re
import socket
from collections.abc import Callable, Iterable
from typing import Final

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from wedge_turn.api.access import PUBLIC_PATHS, read_tokens
from wedge_turn.api.errors import describe_problem, respond
from wedge_turn.core.errors import SignInError, TooLargeError

MAX_BODY_BYTES: Final = 4 * 2**20  # bytes of anything but a file
_LOCAL: Final = frozenset({"localhost", "127.0.0.1", "::1"})
_FILES: Final = re.compile(r"POST /api/jobs/[^/]+/(sources|uploads)|PATCH /api/uploads/[^/]+")
_READS: Final = frozenset({"GET", "HEAD", "OPTIONS"})
# Styles are made while the page runs, by the components' library.
CONTENT_POLICY: Final = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
_HEADERS: Final = {
    "Content-Security-Policy": CONTENT_POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}


def list_hosts(host: str) -> frozenset[str]:
    """The names that an application listening on `host` answers to."""
    return _LOCAL | {host.lower(), socket.gethostname().lower(), f"{socket.gethostname().lower()}.local"}


def is_local(host: str) -> bool:
    """Whether an address is of this machine alone."""
    return host in _LOCAL or (_is_address(host) and ipaddress.ip_address(host).is_loopback)


class RequestGuard:
    def __init__(
        self, app: ASGIApp, hosts: Iterable[str], any_address: bool, is_signed_in: Callable[[str], bool] | None = None
    ) -> None:
        """`any_address` answers to every IP address, as where the machine is reached from others: a name that somebody
        else lets point here is still refused. With `is_signed_in`, which is given the token of a cookie, the API but
        for signing in is for those alone who are.
        """
        self._is_signed_in = is_signed_in
        self._app = app
        self._hosts = frozenset(hosts)
        self._any_address = any_address

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers, path = Headers(scope=scope), str(scope["path"])

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                sent = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    sent.setdefault(name, value)
                if not _is_api(path):
                    forever = path.startswith("/assets/")
                    sent["Cache-Control"] = "public, max-age=31536000, immutable" if forever else "no-cache"
            await send(message)

        if not self._is_ours(headers.get("host", "")):
            refusal = respond(421, "other-host", "This address does not serve that host", "")
        elif scope["method"] not in _READS and not _is_same_site(headers, scope["scheme"]):
            refusal = respond(403, "other-site", "Another site's page cannot change anything here", "")
        elif not self._may_enter(headers, path):
            refusal = describe_problem(SignInError("This server asks for its password"))
        elif not _takes_file(scope) and _length(headers) > MAX_BODY_BYTES:
            refusal = describe_problem(_too_large())
        else:
            inner = receive if _takes_file(scope) else _bounded(receive)
            await self._app(scope, inner, send_with_headers)
            return
        await refusal(scope, receive, send_with_headers)

    def _may_enter(self, headers: Headers, path: str) -> bool:
        """Whether a request needs no password, or comes from a browser that has said it. The page itself needs none."""
        if self._is_signed_in is None or not _is_api(path) or path in PUBLIC_PATHS:
            return True
        return any(map(self._is_signed_in, read_tokens(headers)))

    def _is_ours(self, host: str) -> bool:
        name = _without_port(host).lower()
        return name in self._hosts or (self._any_address and _is_address(name))


def _without_port(host: str) -> str:
    if host.startswith("["):
        return host[1:].partition("]")[0]
    return host.rpartition(":")[0] if host.count(":") == 1 else host


def _is_address(name: str) -> bool:
    try:
        ipaddress.ip_address(name)
    except ValueError:
        return False
    return True


def _is_same_site(headers: Headers, scheme: str) -> bool:
    """Whether a request comes from one of our pages, or from no page at all."""
    if headers.get("sec-fetch-site", "none") not in ("same-origin", "none"):
        return False
    origin = headers.get("origin")
    return origin is None or origin in (f"{scheme}://{headers.get('host')}", f"https://{headers.get('host')}")


def _is_api(path: str) -> bool:
    return path == "/api" or path.startswith("/api/")


def _takes_file(scope: Scope) -> bool:
    """Whether the body of this request is a file on its way in, by where it goes."""
    return _FILES.fullmatch(f"{scope['method']} {scope['path']}") is not None


def _length(headers: Headers) -> int:
    length = headers.get("content-length", "0")
    return int(length) if length.isdecimal() and len(length) < 20 else MAX_BODY_BYTES + 1


def _too_large() -> TooLargeError:
    return TooLargeError(f"More than {MAX_BODY_BYTES // 2**20} MiB were sent in one request")


def _bounded(receive: Receive) -> Receive:
    """The same body, up to the limit: one that says no length is counted as it comes."""
    came = 0

    async def counted() -> Message:
        nonlocal came
        message = await receive()
        came += len(message.get("body", b""))
        if came > MAX_BODY_BYTES:
            raise _too_large()
        return message

    return counted
