"""Two deliveries compared: what came, went, changed, and how, told from their manifests alone."""

from typing import Literal

from pydantic import BaseModel

from wedge_turn.core.delivery.manifest import DeliveredFile, Manifest

Change = Literal["same", "written", "samples", "added", "removed", "renamed"]
_FACTS = (("container", ""), ("depth", " bit"), ("rate", " Hz"), ("channels", " channels"), ("frames", " frames"))


class FileChange(BaseModel):
    """What became of one file. `written` says that its samples are the same before a depth, a range or a format was
    chosen, and its bytes are not; `detail` says in words what is different, empty where nothing is.
    """

    name: str
    change: Change
    detail: str = ""


def compare_deliveries(old: Manifest, new: Manifest) -> list[FileChange]:
    """What the files of a delivery are to those of an earlier one: in the order of the new, then what is gone."""
    before, after = ({file.name: file for file in manifest.files} for manifest in (old, new))
    removed = {file.clip_key: file for name, file in before.items() if name not in after and file.clip_key}
    changes, renamed = [], set()
    for name, file in after.items():
        earlier = before.get(name)
        if earlier is None and file.clip_key in removed:
            earlier = removed[file.clip_key]
            renamed.add(earlier.name)
            how = ", ".join([f"was {earlier.name}", *_facts(earlier, file)])
            changes.append(FileChange(name=name, change="renamed", detail=how))
        elif earlier is None:
            changes.append(FileChange(name=name, change="added"))
        else:
            changes.append(_changed(earlier, file, _sentences(old, name), _sentences(new, name)))
    left = [name for name in before if name not in after and name not in renamed]
    return changes + [FileChange(name=name, change="removed") for name in left]


def _changed(old: DeliveredFile, new: DeliveredFile, was: list[str], now: list[str]) -> FileChange:
    if old.xxh128 == new.xxh128:
        return FileChange(name=new.name, change="same")
    facts = _facts(old, new)
    if old.clip_key and old.clip_key == new.clip_key:
        return FileChange(name=new.name, change="written", detail=", ".join(facts) or "other metadata")
    added = [f"now: {sentence}" for sentence in now if sentence not in was]
    dropped = [f"before: {sentence}" for sentence in was if sentence not in now]
    return FileChange(name=new.name, change="samples", detail=" ".join([", ".join(facts), *dropped, *added]).strip())


def _facts(old: DeliveredFile, new: DeliveredFile) -> list[str]:
    """In what two files differ, in words."""
    facts = [
        f"{_show(getattr(old, fact))} → {_show(getattr(new, fact))}{unit}"
        for fact, unit in _FACTS
        if getattr(old, fact) != getattr(new, fact)
    ]
    return [*facts, "another start time"] if old.start_time != new.start_time else facts


def _sentences(manifest: Manifest, name: str) -> list[str]:
    return [line.sentence for line in manifest.lines if name in line.files]


def _show(value: int | str) -> str:
    return f"{value:,}" if isinstance(value, int) else value
