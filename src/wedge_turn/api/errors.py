"""Every error as an HTTP answer: its code, its message, what to do."""

import logging
from typing import Final

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import SQLAlchemyError
from starlette.exceptions import HTTPException

from wedge_turn.core.errors import BadRequestError, Error, TruncatedError, from_system

log = logging.getLogger(__name__)
STATUS: Final[dict[str, int]] = {
    "error": 500,
    "not-audio": 415,
    "no-sound": 415,
    "media-extra": 415,
    "broken-audio": 422,
    "truncated": 422,
    "no-frames": 422,
    "bad-header": 422,
    "out-of-limits": 422,
    "input": 422,
    "bad-name": 422,
    "bad-request": 422,
    "turn-input": 422,
    "rate-differs": 422,
    "side-unknown": 422,
    "outside-range": 422,
    "not-found": 404,
    "conflict": 409,
    "stale": 409,
    "exists": 409,
    "nothing-to-do": 409,
    "upload-broken": 400,
    "disk-full": 507,
    "proof-failed": 500,
    "stopped": 409,
    "changed": 409,
    "missing": 409,
    "too-large": 413,
    "sign-in": 401,
    "wrong-password": 403,
    "too-many-tries": 429,
    "data-folder": 500,
    "unreadable": 409,
}


class Problem(BaseModel):
    """What went wrong: a stable code, a sentence that names the file or value, and what to do. `usable` is how much
    can be used of an incomplete file.
    """

    code: str
    message: str
    help: str
    usable: str = ""


def respond(status: int, code: str, message: str, help_line: str, usable: str = "") -> JSONResponse:
    return JSONResponse(Problem(code=code, message=message, help=help_line, usable=usable).model_dump(), status)


def describe_problem(error: Error) -> JSONResponse:
    usable = error.usable if isinstance(error, TruncatedError) else ""
    return respond(STATUS[error.code], error.code, error.message, error.help, usable)


def install(app: FastAPI) -> None:
    """Give every error its answer. Only what a request itself says wrong is the caller's fault."""

    @app.exception_handler(Error)
    def ours(_: Request, error: Error) -> JSONResponse:
        return describe_problem(error)

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
        message = str(first["msg"]).removeprefix("Value error, ")
        return respond(422, BadRequestError.code, f"{where}: {message}", BadRequestError.help)

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        if isinstance(error.__cause__, Error):  # met while the body was read
            return describe_problem(error.__cause__)
        code = {404: "not-found", 405: "method-not-allowed"}.get(error.status_code, "http")
        response = respond(error.status_code, code, str(error.detail), "")
        response.headers.update(error.headers or {})
        return response

    @app.exception_handler(OSError)
    @app.exception_handler(SQLAlchemyError)
    @app.exception_handler(Exception)
    def inside(request: Request, error: Exception) -> JSONResponse:
        log.error("%s %s failed", request.method, request.url.path, exc_info=error)
        return describe_problem(from_system(error, "Wedge Turn"))
