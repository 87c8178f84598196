"""Looking and listening: samples and pictures of any clip at any revision, as compact binary.

Everything binary is little-endian float32. Several `clip`s are laid side by side: their channels are counted
through, each from its own start.
"""

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path as FilePath
from typing import Annotated, Final, TypeVar

import numpy as np
from fastapi import APIRouter, Depends, Query, Response
from fastapi.responses import StreamingResponse

from wedge_turn.api.context import Context, Ctx, drop_when_client_leaves
from wedge_turn.api.models import (
    BINARY,
    JPEG,
    ChunkView,
    ExpectationView,
    ForecastView,
    MeasuresView,
    SourceDetails,
)
from wedge_turn.api.views import describe_session, same_samples, source_view
from wedge_turn.core.audio import read_picture
from wedge_turn.core.clips import Clip, join_channels
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.findings import (
    Judgement,
    describe_forecast,
    evaluate_clip,
    expect_centre,
    find_in_centre,
    forecast_centre,
)
from wedge_turn.core.measure import (
    HUSH_BIN,
    Analysis,
    Blending,
    HushSuggestion,
    Lateness,
    Measures,
    PictureRows,
    analyse,
    check_picture_request,
    draw_correlation,
    draw_map,
    draw_waveform,
    follow_loudness,
    match_loudness,
    measure_blending,
    measure_mean_squares,
    suggest_hushes,
)
from wedge_turn.core.pages import LOOKAHEAD
from wedge_turn.core.turns import CentreMethod
from wedge_turn.core.worksheet import Ref, hash_key

T = TypeVar("T")
router = APIRouter(prefix="/api/jobs/{job_id}", tags=["clips"], dependencies=[Depends(drop_when_client_leaves)])

MAX_SAMPLES: Final = 8_000_000  # in one answer: 32 MB
STRETCH_SAMPLES: Final = 500_000  # in memory at once, for each client that reads
MAX_COMPARED: Final = 8
OCTETS: Final = "application/octet-stream"
# A revision never changes, so its samples may be kept by the browser.
CACHED: Final = {"Cache-Control": "private, max-age=3600"}
Refs = Annotated[list[Ref], Query(min_length=1, max_length=64)]
Start = Annotated[int, Query(ge=0, le=2**53)]
Position = Annotated[float, Query(ge=-1, le=1, allow_inf_nan=False)]


@router.get("/sources/{source_id}", operation_id="getSource")
def get_source(ctx: Ctx, job_id: str, source_id: str) -> SourceDetails:
    """Everything known about a source; measured now where it hasn't been yet."""
    source = ctx.store.sources.get(job_id, source_id)
    sheet = ctx.clips.sheet_or_reason(job_id, ctx.store.jobs.get(job_id).head_id).sheet
    clip = ctx.clips.clip_of(source)
    measures = _measured(ctx, source.media, clip)
    judgement = ctx.store.measures.judgements([source_id]).get(source_id)
    sources = ctx.store.sources.for_job(job_id)
    measures_by_media = ctx.store.measures.get([listed.media for listed in sources])
    same = same_samples(sheet, sources, measures_by_media).get(source_id, ())
    session = describe_session(sheet, sources, measures_by_media).get(source_id, ())
    return SourceDetails(
        source=source_view(
            sheet, source, measures, judgement, session, same, ctx.store.media.problem(source.media, source.name)
        ),
        measures=measures,
        chunks=[ChunkView(name=name, bytes=size) for name, size in ctx.store.media.chunks(source.media, source.name)],
    )


@router.get("/sources/{source_id}/picture", operation_id="getPicture", responses={200: JPEG}, response_class=Response)
def get_picture(
    ctx: Ctx, job_id: str, source_id: str, at: Annotated[float, Query(ge=0, le=1e6, allow_inf_nan=False)]
) -> Response:
    """What is seen `at` seconds after the start of a movie, as a JPEG."""
    source = ctx.store.sources.get(job_id, source_id)
    path = ctx.store.media.original(source.media)
    picture = ctx.tasks.scheduler.run("look", read_picture, path, at, source.name)
    return Response(picture, media_type="image/jpeg", headers=CACHED)


@router.get("/revisions/{revision_id}/measures", operation_id="getMeasures")
def get_measures(ctx: Ctx, job_id: str, revision_id: str, clip: Refs) -> MeasuresView:
    """Levels of a clip, how its sides go together, and what is worth knowing; measured now where it hasn't been yet."""
    signal, key = _clips(ctx, job_id, revision_id, clip)
    measures = _measured(ctx, key, signal)
    # Of several clips laid side by side, each says for itself what there is to say.
    name = ctx.clips.sheet(job_id, revision_id).info(clip[0]).name
    judgement = evaluate_clip(name, signal.form, measures) if len(clip) == 1 else Judgement()
    gains = match_loudness(measures)
    return MeasuresView(
        measures=measures, findings=list(judgement.findings), even_gains_db=list(gains) if gains else None
    )


@router.get("/revisions/{revision_id}/analysis", operation_id="getAnalysis")
def get_analysis(
    ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, frames: Annotated[int, Query(ge=1)]
) -> Analysis:
    """Spectrum, field and correlation by frequency band of frames [start, start + frames)."""
    signal, _ = _clips(ctx, job_id, revision_id, clip)
    return ctx.tasks.scheduler.run("look", analyse, signal, start, frames)


@router.get("/revisions/{revision_id}/samples", operation_id="getSamples", responses={200: BINARY})
def get_samples(
    ctx: Ctx,
    job_id: str,
    revision_id: str,
    clip: Refs,
    start: Annotated[int, Query(ge=-(2**53), le=2**53)],
    frames: Annotated[int, Query(ge=1)],
) -> Response:
    """Samples of frames [start, start + frames), interleaved; silence outside the clip."""
    signal, _ = _clips(ctx, job_id, revision_id, clip)
    if frames * signal.form.channels > MAX_SAMPLES:
        raise BadRequestError(f"At most {MAX_SAMPLES:,} samples can be asked for at once")
    stretch = max(1, STRETCH_SAMPLES // signal.form.channels)
    first = ctx.tasks.scheduler.run("hear", signal.read, start, min(stretch, frames))
    later = start + frames + LOOKAHEAD
    if signal.is_computed and later < signal.form.frames:
        ctx.tasks.scheduler.start("look", signal.read, later, 1)  # so that its page is there when it is listened to
    if frames <= stretch:
        return _binary(first)

    def stretches() -> Iterator[bytes]:
        yield _bytes(first)
        for at in range(stretch, frames, stretch):
            yield _bytes(ctx.tasks.scheduler.run("hear", signal.read, start + at, min(stretch, frames - at)))

    headers = {**CACHED, "Content-Length": str(4 * frames * signal.form.channels)}
    return StreamingResponse(stretches(), media_type=OCTETS, headers=headers)


@router.get("/revisions/{revision_id}/waveform", operation_id="getWaveform", responses={200: BINARY})
def get_waveform(ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, per: int, bins: int) -> Response:
    """Minimum, maximum and RMS of each channel in bins of `per` frames (a power of two); rows of 3 · channels."""
    check_picture_request(start, per, bins)
    signal, key = _clips(ctx, job_id, revision_id, clip)

    def read(folder: FilePath) -> PictureRows:
        return draw_waveform(signal, folder, start, per, bins)

    return _binary(_from_pictures(ctx, key, signal, read))


@router.get("/revisions/{revision_id}/correlation", operation_id="getCorrelation", responses={200: BINARY})
def get_correlation(ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, per: int, bins: int) -> Response:
    """Correlation of left and right in bins of `per` frames (1 024 or more): +1 … −1, 2 for silence."""
    check_picture_request(start, per, bins)
    signal, key = _clips(ctx, job_id, revision_id, clip)

    def read(folder: FilePath) -> PictureRows:
        return draw_correlation(signal, folder, start, per, bins)

    return _binary(_from_pictures(ctx, key, signal, read))


@router.get("/revisions/{revision_id}/map", operation_id="getMap", responses={200: BINARY})
def get_map(
    ctx: Ctx, job_id: str, revision_id: str, clip: Refs, start: Start, frames: Annotated[int, Query(ge=1)]
) -> Response:
    """Energy by frequency (96 rows, low to high) and direction (61 columns, left to right), in dB."""
    signal, _ = _clips(ctx, job_id, revision_id, clip)
    return _binary(ctx.tasks.scheduler.run("look", draw_map, signal, start, frames))


@router.get("/revisions/{revision_id}/loudness", operation_id="getLoudness", responses={200: BINARY})
def get_loudness(
    ctx: Ctx,
    job_id: str,
    revision_id: str,
    clip: Refs,
    first: Annotated[int, Query(ge=0)],
    count: Annotated[int, Query(ge=1)],
) -> Response:
    """Momentary and short-term loudness in LUFS at the end of each stretch of 100 ms, from the `first` on; pairs."""
    signal, _ = _clips(ctx, job_id, revision_id, clip)
    return _binary(ctx.tasks.scheduler.run("look", follow_loudness, signal, first, count))


@router.get("/revisions/{revision_id}/hushes", operation_id="suggestHushes")
def get_suggested_hushes(
    ctx: Ctx,
    job_id: str,
    revision_id: str,
    clip: Ref,
    threshold_db: Annotated[float | None, Query(ge=0, le=60, allow_inf_nan=False)] = None,
) -> HushSuggestion:
    """Where a channel of a clip carries only the spill of another; without a threshold, by the one that fits it."""
    signal, key = _clips(ctx, job_id, revision_id, [clip])

    def suggestion(folder: FilePath) -> HushSuggestion:
        powers, size = measure_mean_squares(signal, folder, HUSH_BIN)
        return suggest_hushes(powers, size, signal.form.rate, threshold_db)

    return _from_pictures(ctx, key, signal, suggestion)


@router.get("/revisions/{revision_id}/lateness", operation_id="getLateness")
def get_lateness(ctx: Ctx, job_id: str, revision_id: str, clip: Ref) -> list[Lateness]:
    """How late the other channels of a clip are behind the first, with how sure that is."""
    signal, key = _clips(ctx, job_id, revision_id, [clip])
    form = signal.form
    if form.channels > MAX_COMPARED:
        raise BadRequestError(f"Delays are found among at most {MAX_COMPARED} channels; {form.channels} were given")
    return ctx.tasks.scheduler.share("look", ("lateness", key), ctx.clips.lateness, signal, key)


@router.get("/revisions/{revision_id}/blending", operation_id="getBlending")
def get_blending(
    ctx: Ctx,
    job_id: str,
    revision_id: str,
    clip: Ref,
    share: Annotated[float, Query(ge=0, le=1)] = 0.5,
    delay: Annotated[float, Query(ge=-1e7, le=1e7)] = 0,
    flip: bool = False,
) -> Blending:
    """How the two channels of a clip add up in mono, by band, and the polarity and delay that suit them best."""
    signal, key = _clips(ctx, job_id, revision_id, [clip])
    form = signal.form
    if form.channels != 2:
        raise BadRequestError(f"Two channels are blended; {form.channels} were given")
    (late,) = ctx.tasks.scheduler.share("look", ("lateness", key), ctx.clips.lateness, signal, key)
    measure = partial(measure_blending, flip=flip, late=late)
    return ctx.tasks.scheduler.run("look", measure, signal.read, form.frames, form.rate, share, delay)


@router.get("/revisions/{revision_id}/expectation", operation_id="getExpectation")
def get_expectation(
    ctx: Ctx, job_id: str, revision_id: str, clip: Ref, method: CentreMethod = "voice"
) -> ExpectationView:
    """What to expect of taking the centre of a clip out, with a band and a position measured from it."""
    signal, key = _clips(ctx, job_id, revision_id, [clip])
    expectation = ctx.tasks.scheduler.run("look", expect_centre, signal)
    name = ctx.clips.sheet(job_id, revision_id).info(clip).name
    findings = find_in_centre(name, signal.form, _measured(ctx, key, signal), expectation, method)
    return ExpectationView(expectation=expectation, findings=findings)


@router.get("/revisions/{revision_id}/forecast", operation_id="getForecast")
def get_forecast(ctx: Ctx, job_id: str, revision_id: str, clip: Ref, position: Position = 0.0) -> ForecastView:
    """How well a voice at a position should come out of a stereo clip, before it is removed."""
    signal, key = _clips(ctx, job_id, revision_id, [clip])
    if signal.form.channels != 2:
        raise BadRequestError(f"A voice is removed from two channels; {signal.form.channels} were given")
    about = "forecast", key, position
    forecast = ctx.tasks.scheduler.share("look", about, forecast_centre, signal, position)
    return ForecastView(forecast=forecast, message=describe_forecast(forecast, position))


def _clips(ctx: Context, job_id: str, revision_id: str, refs: list[str]) -> tuple[Clip, str]:
    engine = ctx.clips.engine(job_id, revision_id)
    clips = [engine.clip(ref) for ref in refs]
    if len({clip.form.rate for clip in clips}) > 1:
        raise BadRequestError("Clips of different sample rates can't be compared", help="Choose clips of one rate.")
    if len(clips) == 1:
        return clips[0], engine.sheet.key(refs[0])
    return join_channels(clips), hash_key("side by side", *(engine.sheet.key(ref) for ref in refs))


def _measured(ctx: Context, key: str, clip: Clip) -> Measures:
    return ctx.tasks.scheduler.share("look", ("measures", key), ctx.clips.measure, key, clip)


def _from_pictures(ctx: Context, key: str, clip: Clip, read: Callable[[FilePath], T]) -> T:
    """Draw the pictures of a clip if need be, once for all who ask, and read from them."""
    ctx.tasks.scheduler.share("look", ("pictures", key), ctx.clips.pictures, key, clip)
    return ctx.tasks.scheduler.run("look", ctx.clips.from_pictures, key, clip, read)


def _binary(values: np.ndarray[tuple[int, ...], np.dtype[np.floating]]) -> Response:
    return Response(_bytes(values), media_type=OCTETS, headers=CACHED)


def _bytes(values: np.ndarray[tuple[int, ...], np.dtype[np.floating]]) -> bytes:
    return values.astype("<f4").tobytes()
