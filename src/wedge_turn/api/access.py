"""Signing in and out, where the server is reached from other machines."""

import logging
from typing import Final

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from wedge_turn.api.context import Ctx
from wedge_turn.core.errors import WrongPasswordError
from wedge_turn.store.access import LASTS, LONGEST

COOKIE: Final = "wedge-turn"
# What whoever has not signed in may ask for.
OPEN: Final = frozenset({"/api/session", "/api/health"})
log = logging.getLogger(__name__)
router = APIRouter(prefix="/api", tags=["access"])


class SessionView(BaseModel):
    """Whether this server asks for a password, and whether it was said."""

    needed: bool
    signed_in: bool


class NewSession(BaseModel):
    password: str = Field(max_length=LONGEST)


@router.get("/session", operation_id="getSession")
def get_session(ctx: Ctx, request: Request) -> SessionView:
    """Whether a password is needed, and whether this browser has signed in."""
    known = ctx.store.access.is_signed_in(request.cookies.get(COOKIE, ""))
    return SessionView(needed=ctx.guarded, signed_in=known)


@router.post("/session", operation_id="signIn", status_code=204, response_class=Response)
def sign_in(ctx: Ctx, request: Request, new: NewSession) -> Response:
    """Sign in with the server's password."""
    address = request.client.host if request.client else ""
    ctx.tries.check(address)
    if not ctx.store.access.is_password(new.password):
        ctx.tries.was_wrong(address)
        log.warning("wrong password from %s", address)
        raise WrongPasswordError("This is not the password")
    log.info("signed in from %s", address)
    response = Response(status_code=204)
    response.set_cookie(
        COOKIE, ctx.store.access.sign_in(), max_age=int(LASTS.total_seconds()), httponly=True, samesite="strict",
        secure=request.url.scheme == "https",
    )  # fmt: skip
    return response


@router.delete("/session", operation_id="signOut", status_code=204, response_class=Response)
def sign_out(ctx: Ctx, request: Request) -> Response:
    """Sign out."""
    ctx.store.access.sign_out(request.cookies.get(COOKIE, ""))
    response = Response(status_code=204)
    response.delete_cookie(COOKIE, httponly=True, samesite="strict")
    return response
