"""Deliveries: what would be written, writing it, stopping, and fetching the files."""

from collections.abc import Iterator
from pathlib import Path
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import FileResponse, StreamingResponse
from zipstream import ZipStream

from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.models import DeliveryView, NewDelivery, PlannedFile
from wedge_turn.api.views import delivery_view
from wedge_turn.core.audio.wavfile import file_size
from wedge_turn.core.delivery.manifest import MANIFEST
from wedge_turn.core.delivery.order import Order, file_names, holds_exactly, output_encoding
from wedge_turn.core.errors import BadRequestError, MissingError, NotFoundError
from wedge_turn.core.naming import safe_file_names
from wedge_turn.store.order import StoredOrder
from wedge_turn.tasks import Event

router = APIRouter(prefix="/api", tags=["deliveries"])


@router.post("/jobs/{job_id}/deliveries/plan", operation_id="planDelivery")
def plan_delivery(ctx: Ctx, job_id: str, new: NewDelivery) -> list[PlannedFile]:
    """The files that a delivery would write."""
    engine = ctx.workshop.engine(job_id, new.revision)
    refs = new.refs or tuple(engine.sheet.ends())
    names = file_names(engine, Order(refs, new.depth))
    planned = []
    for ref, name in zip(refs, names, strict=True):
        form = engine.sheet.info(ref).form
        encoding = output_encoding(form, new.depth)
        size = file_size(form.model_copy(update={"encoding": encoding.name}))
        exact = ctx.tasks.scheduler.run("look", holds_exactly, engine.clip(ref), encoding)
        dithered = new.dither and not encoding.is_float and not exact
        planned.append(PlannedFile(ref=ref, file=name, depth=encoding.depth, bytes=size, dithered=dithered))
    return planned


@router.post("/jobs/{job_id}/deliveries", operation_id="startDelivery", status_code=202)
def start_delivery(ctx: Ctx, job_id: str, new: NewDelivery) -> DeliveryView:
    """Write files in the background; events tell the progress."""
    sheet = ctx.workshop.sheet(job_id, new.revision)
    refs = list(new.refs) or sheet.ends()
    if not refs:
        raise BadRequestError("There is nothing to deliver yet: the worksheet has no turns")
    if len(set(refs)) < len(refs):
        raise BadRequestError("The same clip was chosen twice: each can be delivered once at a time")
    for ref in refs:
        sheet.info(ref)
    order = StoredOrder(refs=tuple(refs), depth=new.depth, dither=new.dither)
    delivery = ctx.store.deliveries.create(job_id, new.revision, order)
    ctx.tasks.deliveries.start(delivery.id)
    return delivery_view(delivery, 0.0)


@router.get("/jobs/{job_id}/deliveries", operation_id="listDeliveries")
def list_deliveries(ctx: Ctx, job_id: str) -> list[DeliveryView]:
    """The deliveries of a job, the newest first."""
    return [delivery_view(d, ctx.tasks.deliveries.progress(d.id)) for d in ctx.store.deliveries.of(job_id)]


@router.get("/deliveries/{delivery_id}", operation_id="getDelivery")
def get_delivery(ctx: Ctx, delivery_id: str) -> DeliveryView:
    """A delivery with its manifest and proofs."""
    return delivery_view(ctx.store.deliveries.get(delivery_id), ctx.tasks.deliveries.progress(delivery_id))


@router.post("/deliveries/{delivery_id}/stop", operation_id="stopDelivery")
def stop_delivery(ctx: Ctx, delivery_id: str) -> DeliveryView:
    """Stop writing; nothing of the delivery is left."""
    ctx.store.deliveries.get(delivery_id)
    ctx.tasks.deliveries.stop(delivery_id)
    return get_delivery(ctx, delivery_id)


@router.delete("/deliveries/{delivery_id}", operation_id="deleteDelivery", status_code=204)
def delete_delivery(ctx: Ctx, delivery_id: str) -> None:
    """Remove a delivery's files from where they wait to be fetched."""
    ctx.tasks.deliveries.stop(delivery_id)
    job_id = ctx.store.deliveries.get(delivery_id).job_id
    ctx.store.deliveries.delete(delivery_id)
    ctx.store.media.remove_delivery(delivery_id)
    ctx.events.publish(Event("delivery", job_id, {"delivery": delivery_id, "state": "deleted", "progress": 0.0}))


@router.get("/deliveries/{delivery_id}/archive", operation_id="getArchive", response_class=StreamingResponse)
def get_archive(ctx: Ctx, delivery_id: str) -> StreamingResponse:
    """All files and the manifest as one ZIP, not compressed, made while it is sent."""
    folder, names = _finished(ctx, delivery_id)
    title = safe_file_names([ctx.store.jobs.get(ctx.store.deliveries.get(delivery_id).job_id).name], "")[0]
    archive = ZipStream(sized=True)
    for name in (*names, MANIFEST):
        archive.add_path(str(folder / name), f"{title}/{name}")
    headers = {"Content-Length": str(len(archive)), **_as_file(f"{title}.zip")}

    def chunks() -> Iterator[bytes]:
        yield from archive

    return StreamingResponse(chunks(), media_type="application/zip", headers=headers)


@router.get("/deliveries/{delivery_id}/files/{name}", operation_id="getFile", response_class=FileResponse)
def get_file(ctx: Ctx, delivery_id: str, name: str) -> FileResponse:
    """One file of a delivery."""
    folder, names = _finished(ctx, delivery_id)
    if name not in (*names, MANIFEST):
        raise NotFoundError("There is no such file in this delivery")
    kind = "application/json" if name == MANIFEST else "audio/wav"
    return FileResponse(folder / name, media_type=kind, headers=_as_file(name))


def _finished(ctx: Context, delivery_id: str) -> tuple[Path, list[str]]:
    """The folder of a delivery and the names of its files. Raises NotFoundError without any, MissingError."""
    manifest = delivery_view(ctx.store.deliveries.get(delivery_id), 0.0).manifest
    if manifest is None:
        raise NotFoundError("This delivery has no files: it was not finished")
    folder, names = ctx.store.media.delivery(delivery_id), [file.name for file in manifest.files]
    for name in (*names, MANIFEST):
        if not (folder / name).is_file():
            raise MissingError(f"{name} is missing from the data folder: deliver again")
    return folder, names


def _as_file(name: str) -> dict[str, str]:
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
