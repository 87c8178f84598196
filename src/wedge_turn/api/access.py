"""Signing in and out, where the server is reached from other machines."""

import asyncio
import logging
from typing import Final

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field
from starlette.datastructures import Headers

from wedge_turn.api.context import Context, Ctx
from wedge_turn.core.errors import WrongPasswordError
from wedge_turn.store.access import MAX_PASSWORD, SESSION_LIFETIME
from wedge_turn.tasks import Event

COOKIE: Final = "wedge-turn"
# What whoever has not signed in may ask for.
PUBLIC_PATHS: Final = frozenset({"/api/session", "/api/health"})
log = logging.getLogger(__name__)
router = APIRouter(prefix="/api", tags=["access"])


def read_tokens(headers: Headers) -> list[str]:
    """What a browser has kept as its sign-in. There may be several, under one name, of which older ones are void."""
    cookies = [part.strip().partition("=") for part in headers.get("cookie", "").split(";")]
    return [value for name, _, value in cookies if name == COOKIE]


def is_signed_in(ctx: Context, request: Request) -> bool:
    return any(map(ctx.store.access.is_signed_in, read_tokens(request.headers)))


class SessionView(BaseModel):
    """Whether this server asks for a password, and whether it was said."""

    needed: bool
    signed_in: bool


class NewSession(BaseModel):
    password: str = Field(max_length=MAX_PASSWORD)


@router.get("/session", operation_id="getSession")
def get_session(ctx: Ctx, request: Request) -> SessionView:
    """Whether a password is needed, and whether this browser has signed in."""
    return SessionView(needed=ctx.guarded, signed_in=is_signed_in(ctx, request))


@router.post("/session", operation_id="signIn", status_code=204, response_class=Response)
async def sign_in(ctx: Ctx, request: Request, new: NewSession) -> Response:
    """Sign in with the server's password."""
    address = request.client.host if request.client else ""
    counted = ctx.tries.begin(address)
    async with ctx.hashing:
        right = await asyncio.to_thread(ctx.store.access.is_password, new.password)
    if not right:
        log.warning("wrong password from %s", address)
        raise WrongPasswordError("This is not the password")
    ctx.tries.was_right(counted)
    log.info("signed in from %s", address)
    response = Response(status_code=204)
    response.set_cookie(
        COOKIE,
        ctx.store.access.sign_in(),
        max_age=int(SESSION_LIFETIME.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return response


@router.delete("/session", operation_id="signOut", status_code=204, response_class=Response)
def sign_out(ctx: Ctx, request: Request) -> Response:
    """Sign out."""
    for token in read_tokens(request.headers):
        ctx.store.access.sign_out(token)
    ctx.events.publish(Event("signed-out", ""))
    response = Response(status_code=204)
    response.delete_cookie(COOKIE, httponly=True, samesite="strict")
    return response
