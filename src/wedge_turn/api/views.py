"""How the core's and the store's values become what goes over the wire: translated, never decided."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

from pydantic import ValidationError

from wedge_turn.api.delivery_models import DeliveryView, SettingsView
from wedge_turn.api.models import (
    ClipView,
    DeliveredView,
    GroupView,
    JobView,
    PreparationView,
    QuestionView,
    RevisionView,
    SourceView,
    StepView,
    SuggestionView,
    UnclearView,
)
from wedge_turn.core.delivery import Proof, proof_key, read_manifest_of
from wedge_turn.core.errors import UnreadableError
from wedge_turn.core.findings import (
    FileFinding,
    GroupOverview,
    Judgement,
    Preparation,
    SessionFile,
    StepOverview,
    describe,
    evaluate_clip,
    evaluate_session,
    find_duplicates,
    prepare,
)
from wedge_turn.core.form import format_time_code_of
from wedge_turn.core.measure import Measures
from wedge_turn.core.worksheet import Sheet, Step, can_replace_input, source_ref
from wedge_turn.store.deliveries import LastDelivery
from wedge_turn.store.order import DeliverySettings, StoredOrder, order_of
from wedge_turn.store.rows import Delivery, Job, Revision, SavedSettings, Source
from wedge_turn.store.sources import recorded_of
from wedge_turn.tasks.deliveries import Running

Problems = Callable[[Source], str | None]


def clip_view(sheet: Sheet, ref: str) -> dict[str, Any]:
    info = sheet.info(ref)
    form = info.form
    return {
        "ref": ref,
        "key": sheet.key(ref),
        "name": info.name,
        "channels": form.channels,
        "frames": form.frames,
        "rate": form.rate,
        "depth": form.stored.depth,
        "container": form.container,
        "lossy": form.lossy,
        "speakers": list(form.speakers),
        "labels": list(form.labels),
        "start_time": form.start_time,
        "time_code": format_time_code_of(form),
        "frame_rate": form.frame_rate and form.frame_rate.text,
    }


def source_view(
    sheet: Sheet,
    source: Source,
    measures: Measures | None,
    judgement: Judgement | None,
    session: Sequence[FileFinding],
    same_as: Sequence[str],
    problem: str | None,
) -> SourceView:
    ref = source_ref(source.id)
    return SourceView(
        **clip_view(sheet, ref),
        id=source.id,
        file=source.name,
        folder=source.folder,
        bytes=source.bytes,
        archived=ref in sheet.plan.archived,
        measured=measures is not None,
        loudness=measures.whole.loudness_lufs if measures else None,
        peak=measures.whole.peak_dbfs if measures else None,
        field=measures.sides.field if measures and measures.sides else [],
        findings=[*(judgement.findings if judgement else ()), *session],
        recorded=recorded_of(source),
        same_as=[source_ref(key) for key in same_as],
        note=source.note,
        problem=problem or (judgement.problem if judgement else None),
    )


def same_samples(
    sheet: Sheet, sources: Sequence[Source], measures: Mapping[str, Measures]
) -> dict[str, tuple[str, ...]]:
    """The ids of sources with the same samples as others, with those of the others; `measures` by media."""
    return find_duplicates(
        {
            source.id: (sheet.info(source_ref(source.id)).form, measures[source.media])
            for source in sources
            if source.media in measures
        }
    )


def describe_session(
    sheet: Sheet, sources: Sequence[Source], measures: Mapping[str, Measures]
) -> dict[str, list[FileFinding]]:
    """What the files that are not archived say about each other, by their ids; `measures` by media."""
    visible = [source for source in sources if source_ref(source.id) not in sheet.plan.archived]
    infos = [sheet.info(source_ref(source.id)) for source in visible]
    return evaluate_session(
        [
            SessionFile(source.id, info.name, source.folder, info.form, measures.get(source.media))
            for source, info in zip(visible, infos, strict=True)
        ]
    )


def group_view(overview: GroupOverview) -> GroupView:
    group = overview.group
    return GroupView(
        kind=group.kind,
        name=group.name,
        members=list(group.members),
        speakers=list(group.speakers),
        by_hand=group.by_hand,
        turn=group.turn,
        label=group.turn.kind,
        done=overview.done,
        refused=overview.refused,
        doubt=overview.doubt,
        findings=list(overview.judgement.findings),
    )


def step_view(
    sheet: Sheet, overview: StepOverview, proofs: dict[str, Proof], delivered: Mapping[str, LastDelivery]
) -> StepView:
    step = overview.step
    outcome = sheet.outcomes.get(step.id)
    if outcome is None:
        return _waiting_view(sheet, step)
    proof = proofs.get(proof_key([sheet.key(ref) for ref in overview.outputs]))
    form = overview.inputs[0].form
    return StepView(
        id=step.id,
        turn=step.turn.without_time_code(form),
        verb=step.words,
        sentence=step.sentence(overview.inputs),
        over=step.over and step.over.without_time_code(form),
        takes_place=not step.bypassed and can_replace_input(overview.inputs, outcome),
        begins_at=max(0, -outcome.offsets[0]),
        inputs=list(step.inputs),
        outputs=[ClipView(**clip_view(sheet, ref)) for ref in overview.outputs],
        carries=overview.carries,
        matrix=outcome.matrix.tolist(),
        exact=outcome.exact,
        comes_back=outcome.inverse is not None,
        findings=list(overview.judgement.findings),
        proof=proof,
        delivered=_delivered(sheet, overview.outputs, delivered),
        waits_for=None,
        bypassed=step.bypassed,
        one_to_one=len(step.inputs) == len(overview.outputs) == 1,
        reason=step.reason,
    )


def _delivered(sheet: Sheet, refs: Sequence[str], delivered: Mapping[str, LastDelivery]) -> DeliveredView | None:
    before = {ref: delivered[ref] for ref in refs if ref in delivered and delivered[ref].key}
    if not before:
        return None
    changed = any(sheet.key(ref) != delivery.key for ref, delivery in before.items())
    return DeliveredView(at=max(delivery.at for delivery in before.values()), changed=changed)


def _waiting_view(sheet: Sheet, step: Step) -> StepView:
    waits_for, refusal = sheet.waiting[step.id], sheet.refusals.get(step.id)
    reason = f"{refusal.message[:1].upper()}{refusal.message[1:]}" if refusal else f"Waits for {waits_for}"
    return StepView(
        id=step.id,
        turn=step.turn,
        verb=step.words,
        sentence=f"{reason}: choose another input" + (", or change the line it comes from." if refusal else "."),
        over=step.over,
        takes_place=False,
        one_to_one=False,
        begins_at=0,
        inputs=list(step.inputs),
        outputs=[],
        carries=[],
        matrix=[],
        exact=False,
        comes_back=False,
        findings=[],
        proof=None,
        delivered=None,
        waits_for=waits_for,
        bypassed=step.bypassed,
        reason=step.reason,
    )


def preparation_view(prepared: Preparation) -> PreparationView:
    return PreparationView(
        safe=[
            SuggestionView(
                code=suggestion.code,
                label=suggestion.label,
                turn=suggestion.turn,
                inputs=list(suggestion.inputs),
                names=list(suggestion.names),
                reason=suggestion.reason,
            )
            for suggestion in prepared.safe
        ],
        questions=[
            QuestionView(
                ref=question.ref,
                code=question.code,
                message=question.message,
                inputs=list(question.inputs),
                remedy=question.remedy,
            )
            for question in prepared.questions
        ],
        untouched=list(prepared.untouched),
    )


def job_view(
    job: Job,
    head: Revision,
    sheet: Sheet,
    problem: str | None,
    sources: Sequence[Source],
    proofs: dict[str, Proof],
    delivered: Mapping[str, LastDelivery],
    judgements: dict[str, Judgement],
    measures: Callable[[Iterable[str]], dict[str, Measures]],
    problems: Problems,
) -> JobView:
    ids, folders = [s.id for s in sources], [s.folder for s in sources]
    known_measures = measures(source.media for source in sources)
    overview = describe(sheet, ids, folders, measures)
    # Worked out here where none is stored yet.
    for source in sources:
        if source.id not in judgements and (measured := known_measures.get(source.media)):
            info = sheet.info(source_ref(source.id))
            judgements[source.id] = evaluate_clip(info.name, info.form, measured, recorded_of(source))
    same = same_samples(sheet, sources, known_measures)
    session = describe_session(sheet, sources, known_measures)
    prepared = prepare(sheet, overview, {source_ref(key): judgement for key, judgement in judgements.items()})
    return JobView(
        id=job.id,
        name=job.name,
        head=head.id,
        can_undo=head.parent_id is not None,
        can_redo=head.redo_id is not None,
        sources=[
            source_view(
                sheet,
                s,
                known_measures.get(s.media),
                judgements.get(s.id),
                session.get(s.id, ()),
                same.get(s.id, ()),
                problems(s),
            )
            for s in sources
        ],
        groups=[group_view(group) for group in overview.groups],
        unclear=[UnclearView(name=u.name, members=list(u.members), reason=u.reason) for u in overview.unclear],
        steps=[step_view(sheet, step, proofs, delivered) for step in overview.steps],
        preparation=preparation_view(prepared),
        ends=sheet.list_ends(),
        problem=problem,
    )


def revision_view(revision: Revision, head: str) -> RevisionView:
    return RevisionView(
        id=revision.id,
        parent=revision.parent_id,
        number=revision.number,
        label=revision.label,
        name=revision.name,
        created=revision.created,
        turns=revision.turns,
        is_head=revision.id == head,
    )


def settings_view(row: SavedSettings) -> SettingsView | None:
    """Kept settings; None for those that this version can't read."""
    try:
        return SettingsView(id=row.id, name=row.name, settings=DeliverySettings.model_validate(row.settings))
    except ValidationError:
        return None


def delivery_view(delivery: Delivery, running: Running | None = None) -> DeliveryView:
    """A delivery; what another version stored and this one cannot read is shown as that."""
    manifest, error, running = None, delivery.error, running or Running()
    order = StoredOrder(refs=())
    try:
        order = order_of(delivery.order)
        manifest = read_manifest_of(delivery.manifest) if delivery.manifest else None
    except (ValidationError, KeyError, TypeError, AttributeError):
        unreadable = "This delivery was stored by another version and can't be read"
        error = {"code": UnreadableError.code, "message": unreadable, "help": UnreadableError.help}
    return DeliveryView(
        id=delivery.id,
        revision=delivery.revision_id,
        state=delivery.state,
        progress=1.0 if delivery.state == "done" else running.share,
        created=delivery.created,
        refs=order.refs,
        copies=order.copies,
        range=order.range,
        settings=order.settings,
        to=order.to,
        manifest=manifest,
        files_done=running.done,
        files=running.files,
        seconds_left=running.seconds_left,
        error=error,
    )
