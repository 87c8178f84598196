"""Uploads that survive a lost connection: the tus protocol 1.0.0 (tus.io), with creation, creation with upload, and
termination. The client's side is a library; this side is what the protocol asks of a server that keeps files by
content: bytes are appended as they come, and the last of them takes the file in.

A complete upload answers with the id of its source in `Wedge-Turn-Source`. One that is refused is gone, and the answer
says why like every other error.
"""

import base64
import binascii
from typing import Annotated, Final

from anyio import to_thread
from fastapi import APIRouter, Header, Request, Response
from starlette.requests import ClientDisconnect

from wedge_turn.api.clips import UPLOAD_BLOCK, kept
from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.schemas import UploadView
from wedge_turn.core.errors import BadRequestError, DiskFullError
from wedge_turn.core.naming import check_given_folder, check_given_name
from wedge_turn.store.uploads import Upload, append

router = APIRouter(prefix="/api", tags=["uploads"])
VERSION: Final = "1.0.0"
OFFSET_TYPE: Final = "application/offset+octet-stream"
LARGEST: Final = 2**43


@router.post("/jobs/{job_id}/uploads", operation_id="createUpload", status_code=201, response_class=Response)
async def create_upload(
    ctx: Ctx,
    job_id: str,
    request: Request,
    upload_length: Annotated[int, Header(ge=1, le=LARGEST)],
    upload_metadata: Annotated[str, Header()] = "",
) -> Response:
    """Announce a file: its size, and in the metadata its `filename` and the `folder` it was dropped from."""
    await to_thread.run_sync(ctx.store.job, job_id)
    told = _metadata(upload_metadata)
    name, folder = check_given_name(told.get("filename", "")), check_given_folder(told.get("folder", ""))
    upload = await to_thread.run_sync(ctx.store.media.uploads.create, job_id, name, folder, upload_length)
    headers = {"Location": f"/api/uploads/{upload.id}"}
    if request.headers.get("content-type") == OFFSET_TYPE:
        headers |= await _receive(ctx, request, upload, 0)
    return _answer(201, headers)


@router.head("/uploads/{upload_id}", operation_id="getUploadOffset", response_class=Response)
def get_upload_offset(ctx: Ctx, upload_id: str) -> Response:
    """How many bytes of a file have come."""
    upload = ctx.store.media.uploads.get(upload_id)
    offset = ctx.store.media.uploads.offset(upload)
    return _answer(200, {"Upload-Offset": str(offset), "Upload-Length": str(upload.size)})


@router.patch("/uploads/{upload_id}", operation_id="sendUpload", status_code=204, response_class=Response)
async def send_upload(
    ctx: Ctx, upload_id: str, request: Request, upload_offset: Annotated[int, Header(ge=0, le=LARGEST)]
) -> Response:
    """Send on from an offset, which must be where the last bytes ended."""
    upload = await to_thread.run_sync(ctx.store.media.uploads.get, upload_id)
    return _answer(204, await _receive(ctx, request, upload, upload_offset))


@router.delete("/uploads/{upload_id}", operation_id="removeUpload", status_code=204, response_class=Response)
def remove_upload(ctx: Ctx, upload_id: str) -> Response:
    """Give an upload up."""
    ctx.store.media.uploads.remove(ctx.store.media.uploads.get(upload_id).id)
    return _answer(204, {})


@router.get("/jobs/{job_id}/uploads", operation_id="listUploads")
def list_uploads(ctx: Ctx, job_id: str) -> list[UploadView]:
    """Files of a job that have not come whole."""
    ctx.store.job(job_id)
    uploads = ctx.store.media.uploads
    return [
        UploadView(id=one.id, name=one.name, folder=one.folder, size=one.size, offset=uploads.offset(one))
        for one in uploads.all(job_id)
    ]


async def _receive(ctx: Context, request: Request, upload: Upload, offset: int) -> dict[str, str]:
    """Append the body; take the file in when it is complete. What has come when a connection ends stays."""
    uploads = ctx.store.media.uploads
    waiting = bytearray()
    try:
        with uploads.writing(upload, offset) as fd:
            try:
                async for chunk in request.stream():
                    waiting += chunk
                    if offset + len(waiting) > upload.size:
                        raise BadRequestError(f"{upload.name}: more came than the {upload.size:,} bytes announced")
                    if len(waiting) >= UPLOAD_BLOCK:
                        await to_thread.run_sync(append, fd, bytes(waiting), upload.name)
                        offset += len(waiting)
                        waiting.clear()
            except ClientDisconnect:
                pass  # it goes on later
            await to_thread.run_sync(append, fd, bytes(waiting), upload.name)
            offset += len(waiting)
    except (DiskFullError, BadRequestError):
        uploads.remove(upload.id)
        raise
    headers = {"Upload-Offset": str(offset)}
    if offset == upload.size:
        headers["Wedge-Turn-Source"] = await to_thread.run_sync(_take_in, ctx, upload)
    return headers


def _take_in(ctx: Context, upload: Upload) -> str:
    with ctx.store.media.uploads.arrived(upload) as arrived:
        return kept(ctx, upload.job, arrived).id


def _metadata(header: str) -> dict[str, str]:
    """`key base64,key base64`: UTF-8 text."""
    told = {}
    for part in filter(None, (part.strip() for part in header.split(","))):
        key, _, encoded = part.partition(" ")
        try:
            told[key] = base64.b64decode(encoded, validate=True).decode("utf-8")
        except (binascii.Error, UnicodeDecodeError):
            raise BadRequestError(f"Upload-Metadata: the value of {key} is no base64 of UTF-8") from None
    return told


def _answer(status: int, headers: dict[str, str]) -> Response:
    return Response(status_code=status, headers={"Tus-Resumable": VERSION, "Cache-Control": "no-store", **headers})
