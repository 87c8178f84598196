"""What the voice mask is taught on and judged by: songs follow their seeds, and figures are those of mir_eval."""

import mir_eval
import numpy as np
import pytest
from bench import makes
from bench.centre import left_over, sdr, si_sdr
from bench.learn import FRAMES, packages
from bench.learn.songs import LEAD, song

NOTHING = packages.Sounds(packages=(), fonts=(), syllables=(), espeak=(), speech=(), records=(), drums=())


def test_a_song_follows_its_seed() -> None:
    """Of those that need no package: oscillators and a voice of formants."""
    first, again, other = song(1, NOTHING), song(1, NOTHING), song(11, NOTHING)
    assert first.about == "oscillators, formants"
    assert list(first.stems) == list(again.stems)
    for name, stem in first.stems.items():
        assert stem.shape == (FRAMES, 2)
        assert np.isfinite(stem).all()
        assert stem.tobytes() == again.stems[name].tobytes()
    assert first.stems[LEAD].tobytes() != other.stems[LEAD].tobytes()


def test_nothing_serves_both_teaching_and_judging() -> None:
    purposes = (packages.TEACHING, packages.CHOOSING, packages.JUDGING)
    for n, one in enumerate(purposes):
        for other in purposes[n + 1 :]:
            for kind in ("fonts", "syllables", "espeak", "speech", "records", "drums"):
                assert not set(getattr(one, kind)) & set(getattr(other, kind))
    assert not set(makes._VOICES) & {*packages.TEACHING.espeak, *packages.CHOOSING.espeak}
    assert {package for purpose in purposes for package in purpose.packages} == set(packages.PACKAGES)


@pytest.mark.filterwarnings("ignore:mir_eval.separation")
@pytest.mark.filterwarnings("ignore::FutureWarning")
def test_figures_are_those_of_mir_eval() -> None:
    """Of an error that no filter of the source explains, mir_eval's SDR is the plain one, but for its 512 taps."""
    rng = np.random.default_rng(1)
    true, wrong = rng.standard_normal((2, 60_000, 1))
    for share in (0.03, 0.1, 0.5):
        estimate = true + share * wrong
        (reference,) = mir_eval.separation.bss_eval_sources(true.T, estimate.T, compute_permutation=False)[0]
        assert sdr(true, estimate) == pytest.approx(reference, abs=0.1)
        assert si_sdr(true, 2 * estimate) == pytest.approx(reference, abs=0.1)
        assert sdr(true, estimate) == pytest.approx(-20 * np.log10(share), abs=0.1)
    assert left_over(true, 0.1 * true + wrong) == pytest.approx(-20, abs=0.5)
