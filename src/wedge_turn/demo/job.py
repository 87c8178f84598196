"""The demo's job, put into a store that doesn't have it."""

import tempfile
from pathlib import Path
from typing import Final

from wedge_turn.core.naming import stem
from wedge_turn.core.plan import Plan, Step, source_ref
from wedge_turn.core.turns import ClipInfo, Merge, Split
from wedge_turn.demo.files import write_demo_files
from wedge_turn.store import Store

NAME: Final = "Kettle Island Light"


def ensure_demo_job(store: Store) -> None:
    """Make the demo's job with its files and two worksheet lines, unless there is one of that name already."""
    if any(job.name == NAME for job in store.jobs()):
        return
    job = store.create_job(NAME)
    with tempfile.TemporaryDirectory(prefix="wedge-turn-demo-") as folder:
        for path in write_demo_files(Path(folder)):
            with store.media.arriving(path.name) as arriving:
                arriving.write(path.read_bytes())
                store.add_source(job.id, arriving)
    engine = store.engine(job.id, job.head_id)
    for source in store.sources(job.id):
        ref = source_ref(source.id)
        store.pictures(engine.sheet.key(ref), engine.clip(ref))
    ids = {stem(source.name): source.id for source in store.sources(job.id)}
    merge = Step(id="bell", turn=Merge(), inputs=(source_ref(ids["lamp-bell_L"]), source_ref(ids["lamp-bell_R"])))
    split = Step(id="gull", turn=Split(), inputs=(source_ref(ids["gull-pass"]),))
    for step, label in ((merge, "Added merge"), (split, "Added split")):

        def change(plan: Plan, _: dict[str, ClipInfo], step: Step = step, label: str = label) -> tuple[Plan, str]:
            return plan.adding(step), label

        store.change(job.id, store.job(job.id).head_id, change)
