"""Small files that tests take into a store, and what lies in its folder."""

from pathlib import Path

import numpy as np
import soundfile

from support.helpers import kept_files, noise, write_wav
from wedge_turn.core.turns import Swap
from wedge_turn.core.worksheet import Plan, Sheet, Step, source_ref
from wedge_turn.store.rows import Source


def wav(folder: Path, seed: int = 1, frames: int = 3_000) -> bytes:
    return write_wav(folder / "w.wav", noise(seed, frames, 2)).read_bytes()


def flac(folder: Path, seed: int = 1) -> bytes:
    soundfile.write(folder / "w.flac", noise(seed, 3_000, 2).astype(np.int32) << 8, 48_000, subtype="PCM_24")
    return (folder / "w.flac").read_bytes()


def files(folder: Path) -> list[str]:
    return kept_files(folder / "data")


def adding(source: Source, step_id: str = "s"):  # type: ignore[no-untyped-def]
    def change(sheet: Sheet) -> tuple[Plan, str]:
        return sheet.plan.with_step(Step(id=step_id, turn=Swap(), inputs=(source_ref(source.id),))), "Added swap"

    return change
