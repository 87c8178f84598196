"""Uploads that survive a lost connection: the tus protocol 1.0.0 (tus.io), with creation, creation with upload, and
termination. The client's side is a library; this side is what the protocol asks of a server that keeps files by
content: bytes are appended as they come, and the last of them takes the file in. A program that has no such client
sends a file whole to `/sources`, which goes the same way.

A complete upload answers with the id of its source in `Wedge-Turn-Source`. One that is refused is gone, and the answer
says why like every other error.
"""

import base64
import binascii
from functools import partial
from typing import Annotated, Final

from anyio import to_thread
from fastapi import APIRouter, Header, Request, Response
from starlette.requests import ClientDisconnect

from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.models import SourceView, UploadView
from wedge_turn.api.views import source_view
from wedge_turn.core.audio import EMPTY
from wedge_turn.core.errors import BadRequestError, NotAudioError, TooLargeError, UploadBrokenError
from wedge_turn.core.form import Form
from wedge_turn.core.naming import check_given_folder, check_given_name, stem
from wedge_turn.core.turns import ClipInfo
from wedge_turn.core.worksheet import Plan, Sheet
from wedge_turn.store.uploads import Upload, append

router = APIRouter(prefix="/api", tags=["uploads"])
VERSION: Final = "1.0.0"
OFFSET_TYPE: Final = "application/offset+octet-stream"
MAX_UPLOAD_BYTES: Final = 2**43
MAX_METADATA: Final = 8_000  # characters
BLOCK: Final = 1 << 20  # bytes that are written at once


@router.post("/jobs/{job_id}/sources", operation_id="addSource", status_code=201, tags=["clips"])
async def add_source(ctx: Ctx, job_id: str, name: str, request: Request, salvage: bool = False) -> SourceView:
    """Take a file in whole: its bytes are the body of the request, its name is `name`. To `salvage` is to take what
    can be read of an incomplete file.
    """
    checked_name = check_given_name(name)
    _check_size(ctx, int(request.headers.get("content-length", "0")))
    await to_thread.run_sync(ctx.store.jobs.get, job_id)
    upload = await to_thread.run_sync(
        partial(ctx.store.uploads.create, job_id, checked_name, "", None, salvage=salvage)
    )
    try:
        source = await _receive(ctx, request, upload, 0)
    finally:
        await to_thread.run_sync(ctx.store.uploads.remove, upload.id)
    if source is None:
        raise UploadBrokenError(f"{checked_name} did not arrive: the connection was lost")
    return source


@router.post("/jobs/{job_id}/uploads", operation_id="createUpload", status_code=201, response_class=Response)
async def create_upload(
    ctx: Ctx,
    job_id: str,
    request: Request,
    upload_length: Annotated[int, Header(ge=0, le=MAX_UPLOAD_BYTES)],
    upload_metadata: Annotated[str, Header(max_length=MAX_METADATA)] = "",
) -> Response:
    """Announce a file: its size, and in the metadata its `filename` and the `folder` it was dropped from. With
    `salvage` in the metadata what can be read of an incomplete file is taken.
    """
    await to_thread.run_sync(ctx.store.jobs.get, job_id)
    _check_size(ctx, upload_length)
    metadata = _metadata(upload_metadata)
    name, folder = check_given_name(metadata.get("filename", "")), check_given_folder(metadata.get("folder", ""))
    if upload_length == 0:
        raise NotAudioError(f"{name} is empty: 0 bytes", help=EMPTY)
    create = partial(ctx.store.uploads.create, job_id, name, folder, upload_length, salvage="salvage" in metadata)
    upload = await to_thread.run_sync(create)
    headers = {"Location": f"/api/uploads/{upload.id}"}
    if request.headers.get("content-type") == OFFSET_TYPE:
        headers |= await _send_on(ctx, request, upload, 0)
    return _answer(201, headers)


@router.head("/uploads/{upload_id}", operation_id="getUploadOffset", response_class=Response)
def get_upload_offset(ctx: Ctx, upload_id: str) -> Response:
    """How many bytes of a file have come; all of them also for a while after the last."""
    if finished := ctx.finished.get(upload_id):
        size, source_id = finished
        return _answer(200, {"Upload-Offset": size, "Upload-Length": size, "Wedge-Turn-Source": source_id})
    upload = ctx.store.uploads.get(upload_id)
    offset = ctx.store.uploads.offset(upload)
    return _answer(200, {"Upload-Offset": str(offset), "Upload-Length": str(upload.size)})


@router.patch("/uploads/{upload_id}", operation_id="sendUpload", status_code=204, response_class=Response)
async def send_upload(
    ctx: Ctx, upload_id: str, request: Request, upload_offset: Annotated[int, Header(ge=0, le=MAX_UPLOAD_BYTES)]
) -> Response:
    """Send on from an offset, which must be where the last bytes ended."""
    upload = await to_thread.run_sync(ctx.store.uploads.get, upload_id)
    return _answer(204, await _send_on(ctx, request, upload, upload_offset))


@router.delete("/uploads/{upload_id}", operation_id="removeUpload", status_code=204, response_class=Response)
def remove_upload(ctx: Ctx, upload_id: str) -> Response:
    """Give an upload up."""
    ctx.store.uploads.remove(ctx.store.uploads.get(upload_id).id)
    return _answer(204, {})


@router.get("/jobs/{job_id}/uploads", operation_id="listUploads")
def list_uploads(ctx: Ctx, job_id: str) -> list[UploadView]:
    """Files of a job that have not come whole."""
    ctx.store.jobs.get(job_id)
    return [
        UploadView(id=upload.id, name=upload.name, folder=upload.folder, size=upload.size, offset=offset)
        for upload, offset in ctx.store.uploads.all(job_id)
        if upload.size is not None
    ]


def _check_size(ctx: Context, size: int) -> None:
    """Raises TooLargeError where a file has more bytes than this server takes."""
    if size > ctx.largest_file:
        raise TooLargeError(f"This server takes files of up to {ctx.largest_file / 1e9:g} GB")


async def _send_on(ctx: Context, request: Request, upload: Upload, offset: int) -> dict[str, str]:
    """Append the body; the headers that say how far the upload is now."""
    try:
        source = await _receive(ctx, request, upload, offset)
    except BadRequestError:
        await to_thread.run_sync(ctx.store.uploads.remove, upload.id)
        raise
    if source is not None:
        ctx.finished.put(upload.id, (str(upload.size), source.id))
        return {"Upload-Offset": str(upload.size), "Wedge-Turn-Source": source.id}
    return {"Upload-Offset": str(await to_thread.run_sync(ctx.store.uploads.offset, upload))}


async def _receive(ctx: Context, request: Request, upload: Upload, offset: int) -> SourceView | None:
    """Append the body, and take the file in when it is complete; nobody else can send to it meanwhile. What has come
    when a connection ends stays. Returns None where bytes are still missing.
    """
    waiting, came, stream_ended = bytearray(), offset, True
    with ctx.store.uploads.writing(upload, offset) as fd:
        try:
            async for chunk in request.stream():
                waiting += chunk
                if upload.size is not None and came + len(waiting) > upload.size:
                    raise BadRequestError(f"{upload.name}: more than the announced {upload.size:,} bytes arrived")
                _check_size(ctx, came + len(waiting))
                if len(waiting) >= BLOCK:
                    await to_thread.run_sync(append, fd, bytes(waiting), upload.name)
                    came += len(waiting)
                    waiting.clear()
        except ClientDisconnect:
            stream_ended = False  # it goes on later
        await to_thread.run_sync(append, fd, bytes(waiting), upload.name)
        came += len(waiting)
        complete = came == upload.size if upload.size is not None else stream_ended
        return await to_thread.run_sync(_import_upload, ctx, upload) if complete else None


def _import_upload(ctx: Context, upload: Upload) -> SourceView:
    source = ctx.tasks.take_in(upload)
    info = ClipInfo(stem(source.name), Form.model_validate(source.form))
    sheet = Sheet(Plan(), {source.id: info}, {source.id: source.media})
    return source_view(sheet, source, None, None, (), (), None)


def _metadata(header: str) -> dict[str, str]:
    """`key base64,key base64`: UTF-8 text."""
    metadata = {}
    for part in filter(None, (part.strip() for part in header.split(","))):
        key, _, encoded = part.partition(" ")
        try:
            metadata[key] = base64.b64decode(encoded, validate=True).decode("utf-8")
        except (binascii.Error, UnicodeDecodeError):
            raise BadRequestError(
                f"Upload-Metadata: the value of {key} is not base64 of UTF-8", help="Encode it, or leave it out."
            ) from None
    return metadata


def _answer(status: int, headers: dict[str, str]) -> Response:
    return Response(status_code=status, headers={"Tus-Resumable": VERSION, "Cache-Control": "no-store", **headers})
