"""Deliveries: what would be written, writing it, stopping, and fetching the files."""

from collections.abc import Iterator
from pathlib import Path
from typing import Final

from fastapi import APIRouter
from fastapi.responses import FileResponse, StreamingResponse
from zipstream import ZipStream

from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.headers import as_file
from wedge_turn.api.models import DeliveryView, NewDelivery, PlannedFile
from wedge_turn.api.views import delivery_view
from wedge_turn.core.audio.wavfile import file_size
from wedge_turn.core.delivery.manifest import MANIFEST
from wedge_turn.core.delivery.order import Order, check_format, file_names, holds_exactly, output_encoding, refusals
from wedge_turn.core.delivery.ranged import in_range, outside
from wedge_turn.core.errors import BadRequestError, MissingError, NotFoundError
from wedge_turn.core.naming import safe_file_names
from wedge_turn.store.order import StoredOrder

router = APIRouter(prefix="/api", tags=["deliveries"])
_KINDS: Final = {".json": "application/json", ".wav": "audio/wav", ".flac": "audio/flac", ".aiff": "audio/aiff"}


@router.post("/jobs/{job_id}/deliveries/plan", operation_id="planDelivery")
def plan_delivery(ctx: Ctx, job_id: str, new: NewDelivery) -> list[PlannedFile]:
    """The files that a delivery would write."""
    engine = ctx.workshop.engine(job_id, new.revision)
    refs = new.refs or tuple(engine.sheet.ends())
    names = dict(zip(refs, file_names(engine, _order(ctx, job_id, new, refs)), strict=True))
    reasons = outside(engine.sheet, refs, new.range) if new.range else {}
    inside = tuple(ref for ref in refs if ref not in reasons)
    engine, trimmed = in_range(engine, Order(inside, range=new.range))
    written = dict(zip(inside, trimmed, strict=True))
    refused = refusals(engine, Order(trimmed, new.depth, container=new.container))
    planned = []
    for ref, name in names.items():
        clip = engine.clip(written.get(ref, ref))
        encoding = output_encoding(clip.form, new.depth)
        exact = ref in reasons or ctx.tasks.scheduler.run("look", holds_exactly, clip, encoding)
        planned.append(
            PlannedFile(
                ref=ref,
                file=name,
                depth=encoding.depth,
                frames=clip.form.frames,
                start_time=None if new.container == "aiff" else clip.form.start_time,
                bytes=file_size(clip.form.model_copy(update={"encoding": encoding.name})),
                dithered=new.dither and not encoding.is_float and not exact,
                outside=reasons.get(ref),
                refused=refused.get(written.get(ref, ref)),
            )
        )
    return planned


def _order(ctx: Context, job_id: str, new: NewDelivery, refs: tuple[str, ...]) -> Order:
    job = ctx.store.jobs.get(job_id).name
    return Order(refs, new.depth, container=new.container, naming=new.naming, job=job)


@router.post("/jobs/{job_id}/deliveries", operation_id="startDelivery", status_code=202)
def start_delivery(ctx: Ctx, job_id: str, new: NewDelivery) -> DeliveryView:
    """Write files in the background; events tell the progress."""
    engine = ctx.workshop.engine(job_id, new.revision)
    refs = list(new.refs) or engine.sheet.ends()
    if not refs and not (new.rest and engine.sheet.unused_sources()):
        raise BadRequestError("There is nothing to deliver yet: the worksheet has no turns")
    if len(set(refs)) < len(refs):
        raise BadRequestError("The same clip is selected twice")
    for ref in refs:
        engine.sheet.info(ref)
    order = StoredOrder(
        refs=tuple(refs),
        depth=new.depth,
        dither=new.dither,
        range=new.range,
        rest=new.rest,
        container=new.container,
        naming=new.naming,
    )
    # What can't be done is refused before anything is written.
    trimmed, cut = in_range(engine, Order(order.refs, range=order.range))
    check_format(trimmed, Order(cut, order.depth, container=order.container))
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
    ctx.tasks.deliveries.delete(delivery_id)


@router.get("/deliveries/{delivery_id}/archive", operation_id="getArchive", response_class=StreamingResponse)
def get_archive(ctx: Ctx, delivery_id: str) -> StreamingResponse:
    """All files and the manifest as one ZIP, not compressed, made while it is sent."""
    folder, names = _finished(ctx, delivery_id)
    title = safe_file_names([(ctx.store.jobs.get(ctx.store.deliveries.get(delivery_id).job_id).name, "")])[0]
    archive = ZipStream(sized=True)
    for name in (*names, MANIFEST):
        archive.add_path(str(folder / name), f"{title}/{name}")
    headers = {"Content-Length": str(len(archive)), **as_file(f"{title}.zip")}

    def chunks() -> Iterator[bytes]:
        yield from archive

    return StreamingResponse(chunks(), media_type="application/zip", headers=headers)


@router.get("/deliveries/{delivery_id}/files/{name}", operation_id="getFile", response_class=FileResponse)
def get_file(ctx: Ctx, delivery_id: str, name: str) -> FileResponse:
    """One file of a delivery."""
    folder, names = _finished(ctx, delivery_id)
    if name not in (*names, MANIFEST):
        raise NotFoundError("There is no such file in this delivery")
    kind = _KINDS.get(Path(name).suffix.lower(), "application/octet-stream")
    return FileResponse(folder / name, media_type=kind, headers=as_file(name))


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
