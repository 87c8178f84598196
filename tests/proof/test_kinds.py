"""What is proved in the same way: files of 64 channels, every encoding in and out, sizes in 64 bits."""

from pathlib import Path
from typing import Any, get_args

import pytest

from support.helpers import delivered, engine_on, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import DepthChoice, Order, deliver
from wedge_turn.core.form import ENCODINGS, EncodingName
from wedge_turn.core.turns import AnyTurn, Level, Merge, Polarity, Split


@pytest.mark.parametrize(
    ("turn", "files", "said"),
    [
        (Split(), [64], "Converted back and compared with in0: all 320,064 samples identical (24-bit)."),
        (Merge(order="given", layout="discrete"), [1] * 64, "all 320,064 samples identical (24-bit)."),
        (Polarity(channels=(1, 64)), [64], "Converted back and compared with in0: all 320,064 samples identical"),
    ],
    ids=["split", "merge", "polarity"],
)
def test_64_channels_are_proved(turn: AnyTurn, files: list[int], said: str, tmp_path: Path) -> None:
    manifest, _ = delivered(tmp_path, turn, *(noise(n, 5_001, count, 22) for n, count in enumerate(files)))
    assert [said in proof.proof.statement for proof in manifest.proofs] == [True]


@pytest.mark.parametrize("depth", get_args(DepthChoice))
@pytest.mark.parametrize("encoding", ENCODINGS)
def test_every_encoding_is_proved(encoding: EncodingName, depth: DepthChoice, tmp_path: Path) -> None:
    bits = min(24, ENCODINGS[encoding].bits)
    wav = WavFile(write_wav(tmp_path / "w.wav", noise(1, 5_001, 2, bits), encoding=encoding))
    turns: tuple[AnyTurn, ...] = (Split(), Level(gains_db=(-3.0,)))
    for n, turn in enumerate(turns):
        engine = engine_on(turn, wav)
        manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), depth), tmp_path / f"{n}")
        assert all("samples identical" in proof.proof.statement for proof in manifest.proofs)


@pytest.mark.parametrize("container", ["bw64", "wav"])
def test_headers_of_64_bits_are_read(container: Any, tmp_path: Path) -> None:
    """BW64 says all sizes in 64 bits, as a WAV beyond 4 GiB does; delivered again from itself."""
    first, path = delivered(tmp_path / "first", Split(), noise(1, 5_001, 2), container="bw64")
    assert path.read_bytes()[:4] == b"BW64"
    sides = [WavFile(path.parent / file.name) for file in first.files]
    engine = engine_on(Merge(order="given"), *sides)
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), container=container), tmp_path / "again")
    assert manifest.proofs[0].proof.exact
