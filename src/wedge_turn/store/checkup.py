"""Whether a data folder is well: the folder, the database, every kept file by its hash, the space that is left.

It only reads, so that it can be done beside a server that uses the folder.
"""

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from wedge_turn.store.database import FILE
from wedge_turn.store.uploads import hash_of

MIN_FREE_BYTES: Final = 2 * 10**9  # bytes: a delivery of a day's work may not fit


@dataclass(frozen=True)
class Check:
    """What was looked at, whether it is well, what was found, and what to do where it isn't."""

    name: str
    well: bool
    found: str
    advice: str = ""


def check_data(folder: Path) -> Iterator[Check]:
    """Each thing in turn; where there is no data yet, that is all that is said."""
    if not folder.is_dir():
        yield Check("folder", True, "There is no data yet; the first start makes the folder.")
        return
    if not os.access(folder, os.R_OK | os.W_OK | os.X_OK):
        yield Check("folder", False, "The data folder is not writable.", "Check the permissions of the folder.")
        return
    yield Check("folder", True, "The data folder is writable.")
    free = shutil.disk_usage(folder).free
    yield Check(
        "space",
        free >= MIN_FREE_BYTES,
        f"{free / 1e9:.1f} GB are free.",
        "Clear working copies and pictures under Storage, or free some disk space.",
    )
    if (folder / FILE).exists():
        yield from _check_database(folder)


def _check_database(folder: Path) -> Iterator[Check]:
    advice = "Stop the server, and restore the folder from a backup."
    try:
        with closing(sqlite3.connect(f"{(folder / FILE).resolve().as_uri()}?mode=ro", uri=True)) as database:
            verdict = [row[0] for row in database.execute("PRAGMA integrity_check(3)")]
            jobs = database.execute("SELECT count(*) FROM job").fetchone()[0]
            media = database.execute(
                "SELECT DISTINCT source.media, min(source.name) FROM source GROUP BY source.media"
            ).fetchall()
    except sqlite3.DatabaseError as error:
        yield Check("database", False, f"The database can't be read: {error}.", advice)
        return
    well = verdict == ["ok"]
    count = f"{jobs:,} job." if jobs == 1 else f"{jobs:,} jobs."
    yield Check("database", well, count if well else f"The database is damaged: {verdict[0]}.", advice)
    yield _check_media(folder, media)


def _check_media(folder: Path, kept: list[tuple[str, str]]) -> Check:
    missing, changed = [], []
    for media, name in kept:
        path = folder / "media" / media[:2] / media
        if not path.is_file():
            missing.append(name)
        elif hash_of(path) != media:
            changed.append(name)
    if not missing and not changed:
        return Check("media", True, f"All {len(kept):,} files match their checksums.")
    kinds = (missing, "missing"), (changed, "changed")
    problems = [f"{len(names)} {what} ({_some(names)})" for names, what in kinds if names]
    return Check(
        "media",
        False,
        f"Of {len(kept):,} files: {', '.join(problems)}.",
        "Add the same files again: everything made from them will work as before.",
    )


def _some(names: list[str]) -> str:
    return ", ".join(names[:3]) + (" …" if len(names) > 3 else "")
