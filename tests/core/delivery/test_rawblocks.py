"""Bytes moved and compared without decoding: in whole words by the kernels, and the rest by NumPy."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest

from support.helpers import engine_on, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import make_clip
from wedge_turn.core.clips.engine import apply
from wedge_turn.core.delivery import Order, deliver, rawblocks
from wedge_turn.core.delivery.rawblocks import Loader, RawBlocks, choose_block_frames
from wedge_turn.core.form import ENCODINGS, EncodingName
from wedge_turn.core.turns import ClipInfo, MatrixOutcome, Merge, Output, Split

LENGTHS = (4_000, 3_990, 2_017)
INTEGERS: list[EncodingName] = ["u8", "s16", "s24", "s32"]
MOVED_BY = ["kernels", "NumPy"]


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> list[WavFile]:
    folder = tmp_path_factory.mktemp("sources")
    return [WavFile(write_wav(folder / f"{n}.wav", noise(n, length, 1))) for n, length in enumerate(LENGTHS)]


@contextmanager
def moved(by: str) -> Iterator[None]:
    """Whole words are moved by the kernels, or by NumPy as well."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(rawblocks, "use_kernel", lambda _size: by == "kernels")
        yield


@pytest.mark.parametrize("by", MOVED_BY)
@pytest.mark.parametrize("encoding", INTEGERS)
@pytest.mark.parametrize("frames", [8, 4_000, 4_003])
def test_split_and_merge_move_every_byte(encoding: EncodingName, frames: int, by: str, tmp_path: Path) -> None:
    with moved(by):
        _split_and_merged(encoding, frames, tmp_path)


def _split_and_merged(encoding: EncodingName, frames: int, tmp_path: Path) -> None:
    ints = noise(3, frames, 2, ENCODINGS[encoding].bits)
    whole = write_wav(tmp_path / "whole.wav", ints, encoding=encoding)
    split = engine_on(Split(), WavFile(whole), names=["whole"])
    manifest = deliver(split, Order(tuple(split.sheet.list_ends())), tmp_path / "sides")
    sides = [WavFile(tmp_path / "sides" / file.name) for file in manifest.files]
    merge = engine_on(Merge(), *sides, names=["whole_L", "whole_R"])
    back = deliver(merge, Order(tuple(merge.sheet.list_ends())), tmp_path / "back")
    assert [proof.proof.exact for proof in (*manifest.proofs, *back.proofs)] == [True, True]
    assert (tmp_path / "back" / back.files[0].name).read_bytes() == whole.read_bytes()


def test_bytes_are_only_moved_where_nothing_is_computed(files: list[WavFile]) -> None:
    clip = make_clip(files[0])
    s24 = ENCODINGS["s24"]
    assert RawBlocks.of(clip, s24) is not None
    assert RawBlocks.of(clip, ENCODINGS["s16"]) is None
    flipped = MatrixOutcome((Output("x", clip.form),), np.array([[-1.0]]), (0,), 4_000)
    assert flipped.exact
    assert RawBlocks.of(apply(flipped, [clip])[0], s24) is None
    mixed = MatrixOutcome((Output("x", clip.form),), np.array([[1.0, 1.0]]), (0, 0), 4_000)
    assert RawBlocks.of(apply(mixed, [clip, make_clip(files[1])])[0], s24) is None


def test_a_file_merged_with_itself_is_on_both_sides(files: list[WavFile]) -> None:
    form = files[0].form.model_copy(update={"channels": 2})
    outcome = MatrixOutcome((Output("x", form),), np.eye(2), (0, 16), 4_000)
    (clip,) = apply(outcome, [make_clip(files[0])] * 2)
    raw = RawBlocks.of(clip, ENCODINGS["s24"])
    assert raw is not None
    out = raw.read(0, 800)
    values = (out.reshape(-1, 3).astype(np.int64) @ [1 << 8, 1 << 16, 1 << 24]).astype(np.int32).reshape(-1, 2) >> 8
    assert np.array_equal(values / 2**23, clip.read(0, 800))


def test_loaded_blocks_are_read_once(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "wide.wav", noise(1, 640, 64)))
    reads: list[int] = []
    real = wav.read_raw_into
    wav.read_raw_into = lambda out, start: (reads.append(start), real(out, start))[1]  # type: ignore[method-assign,func-returns-value]
    loader = Loader()
    outcome = Split().outcome([ClipInfo("wide", wav.form)])
    assert isinstance(outcome, MatrixOutcome)
    sides = [RawBlocks.of(clip, ENCODINGS["s24"], loader) for clip in apply(outcome, [make_clip(wav)])]
    for start in (0, 320):
        for side in sides:
            assert side is not None
            assert side.read(start, 320).size == 320 * 3
    assert reads == [0, 320]


@pytest.mark.parametrize("channels", [1, 2, 3, 64])
def test_blocks_are_whole_groups_and_bounded(channels: int) -> None:
    frames = choose_block_frames(channels)
    assert frames % 8 == 0
    assert frames * channels * 4 <= 4 * 1024 * 1024
