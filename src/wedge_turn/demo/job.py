"""The demo's job, put into a store that doesn't have it."""

import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Final

from wedge_turn.core.naming import stem
from wedge_turn.core.turns import Merge, Split
from wedge_turn.core.worksheet import Plan, Step, source_ref
from wedge_turn.demo.files import write_demo_files
from wedge_turn.store import Store
from wedge_turn.store.rows import Source

NAME: Final = "Kettle Island Light"


def ensure_demo_job(
    store: Store, files: Sequence[Path] = (), on_progress: Callable[[float], None] = lambda _: None
) -> str:
    """Make the demo's job with its files and two worksheet lines, unless there is one of that name already; return its
    id. It is made all at once: a start that is interrupted leaves no half of it. `files` are the demo's files where
    they are made already; `on_progress` is told the part that is done, from 0 to 1.
    """
    for job in store.jobs.all():
        if job.name == NAME:
            return job.id
    with tempfile.TemporaryDirectory(prefix="wedge-turn-demo-") as folder:
        sources = [_register(store, path) for path in files or write_demo_files(Path(folder), on_progress)]
    refs = {stem(source.name): source_ref(source.id) for source in sources}
    merge = Step(id="bell", turn=Merge(), inputs=(refs["lamp-bell_L"], refs["lamp-bell_R"]))
    split = Step(id="gull", turn=Split(), inputs=(refs["gull-pass"],))
    plans = [(Plan(steps=(merge,)), "Added merge"), (Plan(steps=(merge, split)), "Added split")]
    return store.jobs.create(NAME, sources, plans).id


def _register(store: Store, path: Path) -> Source:
    upload = store.uploads.receive("", path.name, [path.read_bytes()])
    with store.uploads.arrived(upload) as arrived:
        return store.keep(arrived)
