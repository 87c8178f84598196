"""Files that hold the same samples, whatever they are called and stored as."""

from collections import defaultdict
from collections.abc import Mapping

from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures


def find_duplicates(files: Mapping[str, tuple[Form, Measures]]) -> dict[str, tuple[str, ...]]:
    """For each file that has any, the others of the same rate, channels and samples. Silence is like nothing else."""
    alike: dict[tuple[int, int, int, str], list[str]] = defaultdict(list)
    for key, (form, measures) in files.items():
        if measures.whole.peak_dbfs is not None:
            alike[form.rate, form.channels, form.frames, measures.samples].append(key)
    return {key: tuple(other for other in same if other != key) for same in alike.values() for key in same if same[1:]}
