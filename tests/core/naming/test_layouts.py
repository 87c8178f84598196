"""Mono files as the channels of a layout: in the order of its speakers, which the file says."""

from pathlib import Path

import numpy as np
import pytest

from support.helpers import delivered, noise, read_ints
from wedge_turn.core.audio import WavFile
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.turns import Merge
from wedge_turn.core.worksheet import parse_turn


@pytest.mark.parametrize(
    ("layout", "count", "mask"),
    [
        ("quad", 4, 0x33),
        ("5.0", 5, 0x607),
        ("5.1", 6, 0x60F),
        ("7.1", 8, 0x63F),
        ("LCR", 3, 0x7),
        ("LCRS", 4, 0x107),
        ("6.1", 7, 0x70F),
        ("7.0", 7, 0x637),
        ("discrete", 3, 0),
    ],
)
def test_layouts_have_their_speakers(layout: str, count: int, mask: int, tmp_path: Path) -> None:
    """FL FR FC LFE BL BR BC SL SR: bits 0x1 0x2 0x4 0x8 0x10 0x20 0x100 0x200 0x400 (Microsoft)."""
    files = [noise(n, 200, 1) for n in range(count)]
    turn = parse_turn("merge", {"layout": layout, "order": "given"})
    manifest, path = delivered(tmp_path, turn, *files, names=[f"take {n}" for n in range(count)])
    assert manifest.proofs[0].proof.exact
    assert np.array_equal(read_ints(path), np.hstack(files))
    with WavFile(path) as wav:
        assert wav.form.speaker_mask == mask


def test_a_layout_is_merged_by_name_in_the_order_of_its_speakers(tmp_path: Path) -> None:
    marks = ["BR", "FL", "BL", "FR"]
    files = [noise(n, 200, 1) for n in range(4)]
    manifest, path = delivered(tmp_path, Merge(), *files, names=[f"beacon_{m}" for m in marks])
    assert manifest.files[0].name == "beacon.wav"
    assert np.array_equal(read_ints(path), np.hstack([files[marks.index(m)] for m in ("FL", "FR", "BL", "BR")]))
    with pytest.raises(TurnInputError, match="takes 6 mono clips; 4 were given"):
        delivered(tmp_path / "x", parse_turn("merge", {"layout": "5.1"}), *files)
