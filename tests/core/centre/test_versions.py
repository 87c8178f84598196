"""Lines keep the version of the voice method that they were made with, until somebody chooses the newer one."""

from itertools import combinations
from pathlib import Path

import numpy as np
import pytest

from support.helpers import engine_on, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.centre import spectra
from wedge_turn.core.centre.voice import network
from wedge_turn.core.clips import Engine
from wedge_turn.core.turns import Centre
from wedge_turn.demo import why

# As worksheets and recipes hold a line that was made before there were versions.
STORED = {
    "kind": "centre", "keep": "centre", "method": "voice", "replaces": "", "low_hz": None, "high_hz": None,
    "lows": "both", "position": 0.0, "opening": 1.0, "strength": 1.5, "depth": 1.0, "protect_drums": False,
}  # fmt: skip


@pytest.fixture
def song(tmp_path: Path) -> WavFile:
    samples = np.rint(why.sound("song") * 2**23).astype(np.int64)
    return WavFile(write_wav(tmp_path / "song.wav", samples, rate=48_000, encoding="s24"))


def read(engine: Engine) -> np.ndarray:
    clip = engine.clip("step:only:0")
    return clip.read(0, clip.form.frames)


def test_a_stored_line_keeps_its_version_and_a_new_one_has_the_latest() -> None:
    assert Centre.model_validate(STORED).version == 2
    assert Centre.model_validate({"kind": "centre"}).version == network.LATEST
    assert Centre.model_validate(Centre.model_validate(STORED).model_dump()).version == 2
    assert Centre.model_validate({**STORED, "version": 3}).version == 3
    for method in ("wedge", "learned"):
        assert Centre.model_validate({**STORED, "method": method}).version == network.LATEST


def test_each_version_is_computed_by_its_own_weights(song: WavFile) -> None:
    engines = {
        version: engine_on(Centre.model_validate({**STORED, **more}), song)
        for version, more in ((2, {}), (3, {"version": 3}), (4, {"version": 4}))
    }
    assert len({engine.sheet.key("step:only:0") for engine in engines.values()}) == 3
    window = spectra.make_window(4_096)
    left, right = (spectra.transform(np.pad(c, 2_048), 100, window) for c in why.sound("song").T)
    for version, engine in engines.items():
        shares = network.compute_shares(left, right, version)
        taken = [np.sum(np.abs(channel * shares) ** 2) for channel in (left, right)]
        heard = read(engine)
        again = [np.sum(np.abs(spectra.transform(np.pad(c, 2_048), 100, window)) ** 2) for c in heard[: 100 * 2_048].T]
        assert again == pytest.approx(taken, rel=0.1)
    for one, other in combinations(engines.values(), 2):
        assert np.abs(read(one) - read(other)).max() > 0.01


def test_an_older_line_says_which_version_computes_it(song: WavFile) -> None:
    latest = {"version": network.LATEST}
    old, new = (engine_on(Centre.model_validate({**STORED, **more}), song) for more in ({}, latest))
    (finding,) = old.sheet.outcomes["only"].findings
    assert (finding.code, finding.measured) == ("older-voice", {"version": 2})
    assert "version 2 of the voice method" in finding.message
    assert new.sheet.outcomes["only"].findings == ()
