"""Every error of the core as an HTTP answer: its code, its message, what to do."""

from typing import Final

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ValidationError
from starlette.exceptions import HTTPException

from wedge_turn.core.errors import BadRequestError, WedgeTurnError

STATUS: Final[dict[str, int]] = {
    "error": 500,
    "not-audio": 415,
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
    "not-found": 404,
    "conflict": 409,
    "stale": 409,
    "exists": 409,
    "nothing-to-do": 409,
    "upload-broken": 400,
    "disk-full": 507,
    "proof-failed": 500,
    "stopped": 409,
}


class Problem(BaseModel):
    """What went wrong: a stable code, a sentence that names the file or value, and what to do."""

    code: str
    message: str
    help: str


def answer(status: int, code: str, message: str, help_line: str) -> JSONResponse:
    return JSONResponse(Problem(code=code, message=message, help=help_line).model_dump(), status)


def install(app: FastAPI) -> None:
    """Give every error its answer."""

    @app.exception_handler(WedgeTurnError)
    def ours(_: Request, error: WedgeTurnError) -> JSONResponse:
        return answer(STATUS[error.code], error.code, error.message, error.help)

    @app.exception_handler(RequestValidationError)
    @app.exception_handler(ValidationError)
    def invalid(_: Request, error: RequestValidationError | ValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
        return answer(422, BadRequestError.code, f"{where}: {first['msg']}", BadRequestError.help)

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        return answer(error.status_code, "not-found" if error.status_code == 404 else "http", str(error.detail), "")
