"""Deliveries: what would be written, writing it, stopping, and fetching the files."""

from functools import partial
from pathlib import Path, PurePosixPath
from typing import Annotated, Final

from fastapi import APIRouter, Header, Response
from fastapi.responses import FileResponse, StreamingResponse

from wedge_turn.api.archive import Archive
from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.delivery_models import (
    DeliveryFolder,
    DeliveryView,
    NewDelivery,
    NewSettings,
    PlannedFile,
    SettingsView,
)
from wedge_turn.api.headers import as_file
from wedge_turn.api.views import delivery_view, settings_view
from wedge_turn.core.audio import file_size
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import (
    MANIFEST,
    MEDIA_TYPES,
    REPORT,
    FileChange,
    Manifest,
    Order,
    Origin,
    apply_range,
    check_format,
    choose_encoding,
    compare_deliveries,
    find_outside,
    is_exact_in,
    keeps_start_time,
    list_gain_reductions,
    list_refusals,
    name_files,
)
from wedge_turn.core.errors import BadRequestError, MissingError, NotFoundError
from wedge_turn.core.naming import make_file_names
from wedge_turn.core.worksheet import parse_ref
from wedge_turn.store.order import StoredOrder, order_of

router = APIRouter(prefix="/api", tags=["deliveries"])
_KINDS: Final = {".json": "application/json", ".html": "text/html", **MEDIA_TYPES}


@router.post("/jobs/{job_id}/deliveries/plan", operation_id="planDelivery")
def plan_delivery(ctx: Ctx, job_id: str, new: NewDelivery) -> list[PlannedFile]:
    """The files that a delivery would write."""
    engine = ctx.clips.engine(job_id, new.revision)
    refs = tuple(_refs(new) or engine.sheet.list_ends())
    names = dict(zip(refs, name_files(engine, _order(ctx, job_id, new, refs)), strict=True))
    over = _over(ctx, job_id, engine, refs, new)
    lower = list_gain_reductions(over)
    reasons = find_outside(engine.sheet, refs, new.range) if new.range else {}
    inside = tuple(ref for ref in refs if ref not in reasons)
    engine, trimmed = apply_range(engine, Order(inside, range=new.range))
    written = dict(zip(inside, trimmed, strict=True))
    refused = list_refusals(engine, Order(trimmed, new.depth, container=new.container))
    planned = []
    for ref, name in names.items():
        clip = engine.clip(written.get(ref, ref))
        encoding = choose_encoding(clip.form, new.depth)
        exact = ref in reasons or ctx.tasks.scheduler.run("look", is_exact_in, clip, encoding)
        planned.append(
            PlannedFile(
                ref=ref,
                file=name,
                depth=encoding.depth,
                frames=clip.form.frames,
                start_time=clip.form.start_time if keeps_start_time(new.container) else None,
                bytes=file_size(clip.form.model_copy(update={"encoding": encoding.name})),
                dithered=new.dither and not encoding.is_float and not exact,
                outside=reasons.get(ref),
                refused=refused.get(written.get(ref, ref)),
                over_db=over[ref],
                lower_db=lower[ref],
            )
        )
    return planned


def _refs(new: NewDelivery) -> list[str]:
    """The clips that were chosen. Raises BadRequestError where one is chosen twice."""
    if len(set(new.refs)) < len(new.refs):
        raise BadRequestError("The same clip is selected twice", help="Select each only once.")
    return list(new.refs)


def _over(
    ctx: Context, job_id: str, engine: Engine, refs: tuple[str, ...], new: NewDelivery
) -> dict[str, float | None]:
    """By how many dB clips would be clipped. What isn't known yet is measured meanwhile."""
    integers = [ref for ref in refs if not choose_encoding(engine.sheet.info(ref).form, new.depth).is_float]
    over = ctx.clips.over_full_scale(job_id, engine, integers)
    unknown = {engine.sheet.key(ref): partial(engine.clip, ref) for ref, db in over.items() if db is None}
    ctx.tasks.measuring.measure_clips(job_id, unknown)
    return {ref: over.get(ref, 0.0) for ref in refs}


def _order(ctx: Context, job_id: str, new: NewDelivery, refs: tuple[str, ...]) -> Order:
    job = ctx.store.jobs.get(job_id).name
    origins = {source.id: Origin(source.name, source.folder) for source in ctx.store.sources.for_job(job_id)}
    return Order(
        refs, new.depth, container=new.container, naming=new.naming, job=job, folders=new.folders, origins=origins
    )


@router.post("/jobs/{job_id}/deliveries", operation_id="startDelivery", status_code=202)
def start_delivery(ctx: Ctx, job_id: str, new: NewDelivery) -> DeliveryView:
    """Write files in the background; events tell the progress."""
    engine = ctx.clips.engine(job_id, new.revision)
    refs = _refs(new) or ([] if new.copies else engine.sheet.list_ends())
    if not refs and not new.copies and not (new.rest and engine.sheet.unused_sources()):
        raise BadRequestError("There is nothing to deliver yet: the worksheet has no turns", help="Add one.")
    engine.sheet.check([*refs, *new.copies])
    if any(parse_ref(ref)[0] != "source" for ref in new.copies):
        raise BadRequestError("Only files of the job can be copied")
    if new.to is not None:
        ctx.tasks.deliveries.folder_called(new.to)
    order = StoredOrder(**{**new.model_dump(exclude={"revision"}), "refs": tuple(refs)})
    # What can't be done is refused before anything is written.
    trimmed, cut = apply_range(engine, Order(order.refs, range=order.range))
    check_format(trimmed, Order(cut, order.depth, container=order.container))
    delivery = ctx.store.deliveries.create(job_id, new.revision, order)
    ctx.tasks.deliveries.start(delivery.id)
    return delivery_view(delivery)


@router.get("/jobs/{job_id}/deliveries", operation_id="listDeliveries")
def list_deliveries(ctx: Ctx, job_id: str) -> list[DeliveryView]:
    """The deliveries of a job, the newest first."""
    return [delivery_view(d, ctx.tasks.deliveries.running(d.id)) for d in ctx.store.deliveries.for_job(job_id)]


@router.get("/deliveries/{delivery_id}", operation_id="getDelivery")
def get_delivery(ctx: Ctx, delivery_id: str) -> DeliveryView:
    """A delivery with its manifest and proofs."""
    return delivery_view(ctx.store.deliveries.get(delivery_id), ctx.tasks.deliveries.running(delivery_id))


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
def get_archive(
    ctx: Ctx,
    delivery_id: str,
    part: Annotated[str | None, Header(alias="Range")] = None,
    if_range: Annotated[str | None, Header()] = None,
) -> Response:
    """All files with the manifest and the report as one ZIP, or the part of it that is asked for."""
    folder, names = _finished(ctx, delivery_id)
    title = make_file_names([(ctx.store.jobs.get(ctx.store.deliveries.get(delivery_id).job_id).name, "")])[0]
    return Archive(folder, names, title, delivery_id).response(part, if_range)


@router.get("/deliveries/{delivery_id}/files/{name:path}", operation_id="getFile", response_class=FileResponse)
def get_file(ctx: Ctx, delivery_id: str, name: str) -> FileResponse:
    """One file of a delivery, its manifest or its report."""
    folder, names = _finished(ctx, delivery_id)
    if name not in names:
        raise NotFoundError("There is no such file in this delivery")
    path = PurePosixPath(name)
    kind = _KINDS.get(path.suffix.lower(), "application/octet-stream")
    headers = {} if name == REPORT else as_file(path.name)
    return FileResponse(folder / name, media_type=kind, headers=headers)


@router.get("/deliveries/{delivery_id}/differences", operation_id="compareDeliveries")
def compare(ctx: Ctx, delivery_id: str, since: str) -> list[FileChange]:
    """What is different from an earlier delivery, file by file."""
    old, new = (_manifest(ctx, key) for key in (since, delivery_id))
    return compare_deliveries(old, new)


@router.get("/delivery-folder", operation_id="getDeliveryFolder")
def get_delivery_folder(ctx: Ctx) -> DeliveryFolder:
    """The folder on the server that can be delivered to, and the folders in it."""
    offered = ctx.tasks.deliveries.offered()
    return DeliveryFolder(name=offered.name if offered else None, folders=offered.folders if offered else [])


@router.get("/delivery-settings", operation_id="listDeliverySettings")
def list_delivery_settings(ctx: Ctx) -> list[SettingsView]:
    """Settings of deliveries that are kept for all jobs, by name."""
    return [view for row in ctx.store.deliveries.settings() if (view := settings_view(row))]


@router.post("/delivery-settings", operation_id="keepDeliverySettings", status_code=201)
def save_delivery_settings(ctx: Ctx, new: NewSettings) -> SettingsView:
    """Keep settings under a name; those that had it are replaced."""
    row = ctx.store.deliveries.keep_settings(new.name, new.settings)
    return SettingsView(id=row.id, name=row.name, settings=new.settings)


@router.delete("/delivery-settings/{settings_id}", operation_id="forgetDeliverySettings", status_code=204)
def delete_delivery_settings(ctx: Ctx, settings_id: str) -> None:
    """Forget settings."""
    ctx.store.deliveries.forget_settings(settings_id)


def _manifest(ctx: Context, delivery_id: str) -> Manifest:
    manifest = delivery_view(ctx.store.deliveries.get(delivery_id)).manifest
    if manifest is None:
        raise NotFoundError("This delivery has no files: it was not finished")
    return manifest


def _finished(ctx: Context, delivery_id: str) -> tuple[Path, list[str]]:
    """The folder of a delivery and the names of its files, the manifest and the report among them.

    Raises NotFoundError without any, MissingError.
    """
    delivery, manifest = ctx.store.deliveries.get(delivery_id), _manifest(ctx, delivery_id)
    folder = ctx.tasks.deliveries.folder(delivery, order_of(delivery.order).to)
    names = [*(file.name for file in manifest.files), MANIFEST]
    for name in names:
        if not (folder / name).is_file():
            raise MissingError(f"{name} is missing from the data folder: deliver again")
    return folder, [*names, *([REPORT] if (folder / REPORT).is_file() else [])]
