"""Taking files in, and looking and listening: samples and pictures of any clip at any revision, as compact binary.

Everything binary is little-endian float32. Several `clip`s are laid side by side: their channels are counted
through, each from its own start.
"""

from typing import Annotated, Final

import numpy as np
from anyio import to_thread
from fastapi import APIRouter, Query, Request, Response
from starlette.requests import ClientDisconnect

from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.schemas import ChunkView, ExpectationView, MeasuresView, SourceDetails, SourceView, source_view
from wedge_turn.core.audio.form import Form
from wedge_turn.core.engine import Clip, side_by_side
from wedge_turn.core.errors import BadRequestError, UploadBrokenError
from wedge_turn.core.findings import centre_findings, findings_of
from wedge_turn.core.measure import pictures
from wedge_turn.core.measure.analysis import Analysis, analyse
from wedge_turn.core.measure.map import energy_map, expect
from wedge_turn.core.naming import check_given_name, stem
from wedge_turn.core.plan import Plan, Ref, Sheet, key_of, source_ref
from wedge_turn.core.turns import ClipInfo
from wedge_turn.store.media import Arriving
from wedge_turn.store.uploads import Arrived

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["clips"])

MOST_SAMPLES: Final = 8_000_000  # in one answer: 32 MB
EXPECT_SECONDS: Final = 60
UPLOAD_BLOCK: Final = 1 << 20
Refs = Annotated[list[Ref], Query(min_length=1, max_length=64)]
Start = Annotated[int, Query(ge=0, le=2**53)]
BINARY: Final = {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}


@router.post("/sources", operation_id="addSource", status_code=201)
async def add_source(ctx: Ctx, job_id: str, name: str, request: Request) -> SourceView:
    """Take a file in: its bytes are the body of the request, its name is `name`."""
    shown = check_given_name(name)
    await to_thread.run_sync(ctx.store.job, job_id)
    with ctx.store.media.arriving(shown) as arriving:
        await _receive(request, arriving)
        return await to_thread.run_sync(kept, ctx, job_id, arriving)


async def _receive(request: Request, arriving: Arriving) -> None:
    waiting = bytearray()
    try:
        async for chunk in request.stream():
            waiting += chunk
            if len(waiting) >= UPLOAD_BLOCK:
                await to_thread.run_sync(arriving.write, bytes(waiting))
                waiting.clear()
    except ClientDisconnect:
        raise UploadBrokenError(f"{arriving.name} did not arrive: the connection ended before the file did") from None
    await to_thread.run_sync(arriving.write, bytes(waiting))


def kept(ctx: Context, job_id: str, arriving: Arrived) -> SourceView:
    """Take in a file that has arrived."""
    source = ctx.store.add_source(job_id, arriving)
    ctx.tasks.look_at(source)
    ctx.changed(job_id)
    info = ClipInfo(stem(source.name), Form.model_validate(source.form))
    return source_view(Sheet(Plan(), {source.id: info}, {source.id: source.media}), source, {})


@router.get("/sources/{source_id}", operation_id="getSource")
def get_source(ctx: Ctx, job_id: str, source_id: str) -> SourceDetails:
    """Everything known about a source; measured now where it hasn't been yet."""
    engine = ctx.store.engine(job_id, ctx.store.job(job_id).head_id)
    ref = source_ref(source_id)
    key, clip = engine.sheet.key(ref), engine.clip(ref)
    measures = ctx.aside.do(ctx.store.measure, key, clip)
    source = next(s for s in ctx.store.sources(job_id) if s.id == source_id)
    return SourceDetails(
        source=source_view(engine.sheet, source, {key: measures}),
        measures=measures,
        chunks=[ChunkView(name=name, bytes=size) for name, size in ctx.store.media.chunks(source.media, source.name)],
    )


@router.get("/revisions/{revision_id}/measures", operation_id="getMeasures")
def get_measures(ctx: Ctx, job_id: str, revision_id: str, clip: Refs) -> MeasuresView:
    """Levels of a clip, how its sides go together, and what is worth knowing; measured now where it hasn't been yet."""
    whole, key = _clips(ctx, job_id, revision_id, clip)
    measures = ctx.aside.do(ctx.store.measure, key, whole)
    # Of several clips laid side by side, each says for itself what there is to say.
    name = ctx.store.sheet(job_id, revision_id).info(clip[0]).name
    found = findings_of(name, whole.form, measures) if len(clip) == 1 else []
    return MeasuresView(measures=measures, findings=found)


@router.get("/revisions/{revision_id}/analysis", operation_id="getAnalysis")
def get_analysis(
    ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, frames: Annotated[int, Query(ge=1)]
) -> Analysis:
    """Spectrum, field and correlation by frequency band of frames [start, start + frames)."""
    whole, _ = _clips(ctx, job_id, revision_id, clip)
    return ctx.aside.do(analyse, whole, start, frames)


@router.get("/revisions/{revision_id}/samples", operation_id="getSamples", responses={200: BINARY})
def get_samples(
    ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, frames: Annotated[int, Query(ge=1)]
) -> Response:
    """Samples of frames [start, start + frames), interleaved; silence outside the clip."""
    whole, _ = _clips(ctx, job_id, revision_id, clip)
    if frames * whole.form.channels > MOST_SAMPLES:
        raise BadRequestError(f"At most {MOST_SAMPLES:,} samples can be asked for at once")
    return _binary(whole.read(start, frames))


@router.get("/revisions/{revision_id}/waveform", operation_id="getWaveform", responses={200: BINARY})
def get_waveform(ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, per: int, bins: int) -> Response:
    """Minimum, maximum and RMS of each channel in bins of `per` frames (a power of two); rows of 3 · channels."""
    pictures.check_request(start, per, bins)
    whole, key = _clips(ctx, job_id, revision_id, clip)
    folder = ctx.aside.do(ctx.store.pictures, key, whole)
    return _binary(ctx.aside.do(pictures.waveform, whole, folder, start, per, bins))


@router.get("/revisions/{revision_id}/correlation", operation_id="getCorrelation", responses={200: BINARY})
def get_correlation(ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, per: int, bins: int) -> Response:
    """Correlation of left and right in bins of `per` frames (1 024 or more): +1 … −1, NaN for silence."""
    pictures.check_request(start, per, bins)
    whole, key = _clips(ctx, job_id, revision_id, clip)
    folder = ctx.aside.do(ctx.store.pictures, key, whole)
    return _binary(ctx.aside.do(pictures.correlation, whole, folder, start, per, bins))


@router.get("/revisions/{revision_id}/map", operation_id="getMap", responses={200: BINARY})
def get_map(
    ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, frames: Annotated[int, Query(ge=1)]
) -> Response:
    """Energy by frequency (96 rows, low to high) and direction (61 columns, left to right), in dB below the loudest."""
    whole, _ = _clips(ctx, job_id, revision_id, clip)
    return _binary(ctx.aside.do(energy_map, whole, start, frames))


@router.get("/revisions/{revision_id}/expectation", operation_id="getExpectation")
def get_expectation(ctx: Ctx, job_id: str, revision_id: str, clip: Ref) -> ExpectationView:
    """What to expect of taking the centre of a clip out, with a band and a position measured from it."""
    whole, key = _clips(ctx, job_id, revision_id, [clip])
    frames = min(whole.form.frames, EXPECT_SECONDS * whole.form.rate)
    expectation = ctx.aside.do(expect, whole, (whole.form.frames - frames) // 2, frames)
    name = ctx.store.sheet(job_id, revision_id).info(clip).name
    found = centre_findings(name, ctx.aside.do(ctx.store.measure, key, whole), expectation)
    return ExpectationView(expectation=expectation, findings=found)


def _clips(ctx: Context, job_id: str, revision_id: str, refs: list[str]) -> tuple[Clip, str]:
    engine = ctx.store.engine(job_id, revision_id)
    clips = [engine.clip(ref) for ref in refs]
    if len({clip.form.rate for clip in clips}) > 1:
        raise BadRequestError("Clips of different sample rates cannot be laid side by side")
    if len(clips) == 1:
        return clips[0], engine.sheet.key(refs[0])
    return side_by_side(clips), key_of("side by side", *(engine.sheet.key(ref) for ref in refs))


def _binary(values: np.ndarray[tuple[int, ...], np.dtype[np.floating]]) -> Response:
    # A revision never changes, so its samples may be kept by the browser.
    headers = {"Cache-Control": "private, max-age=3600"}
    return Response(values.astype("<f4").tobytes(), media_type="application/octet-stream", headers=headers)
