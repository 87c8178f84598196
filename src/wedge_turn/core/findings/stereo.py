"""What left and right say beside each other: mono in disguise, polarity, mid and side, two recordings, delay, balance.

Every threshold stands here, with its reason; figures that are not from a standard are common practice, no source.
"""

import re
from collections.abc import Iterator
from typing import Final

from wedge_turn.core.findings.channels import has_silent_channel, is_empty
from wedge_turn.core.findings.finding import (
    FileFinding,
    Remedy,
    balance_remedy,
    capitalize,
    format_signed,
    make_remedy,
)
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures, PolarityChange, StereoMeasures
from wedge_turn.core.turns import Polarity, format_samples
from wedge_turn.core.worksheet import Stretch

# A difference of left and right that is 40 dB down is noise or a trace of reverb; a mono file sounds the same.
NEARLY_MONO_DB: Final = -40.0
# Wide recordings with spaced microphones reach −0.2 or so over their length; real inversions lie far below.
OPPOSITE: Final = -0.5
# Long waves reach both microphones of a pair together: the lows of a stereo recording are in polarity, however wide it
# is. Where they are far out of it and no band is in it, a channel is inverted, though wide highs hide that as a whole.
LOWS_HZ: Final = 120.0
LOWS_OPPOSITE: Final = -0.5
WHOLE_BELOW: Final = -0.2
BAND_SOUNDS_DB: Final = -40.0
LOWS_SOUND_DB: Final = -30.0
MIN_SECONDS: Final = 2.0
# Two recordings on one file share neither waves nor their comings and goings, as the two sides of a wide sound do.
NOT_CORRELATED: Final = 0.1
NOT_COHERENT: Final = 0.3
OWN_ENVELOPES: Final = 0.25
TAKE_TURNS: Final = -0.2
# A pan that leans by 6 dB is heard at once; mixes as a whole hardly ever lean by 3.
LEANS_DB: Final = 6.0
# The same sound in both files shows even small differences of gain for what they are.
SAME_SOUND_COHERENCE: Final = 0.8
SAME_SOUND_LEANS_DB: Final = 1.0
# One delayed sound alone gives 1, with a room around it 0.3 to 0.7; unrelated sounds stay below 0.05.
SURE_OF_DELAY: Final = 0.35
DELAY_OVER_NEXT: Final = 2.0
# A few samples are the depth of a capsule or the tilt of a pair: not worth a word.
MIN_DELAY_SECONDS: Final = 0.00012
# Side lies below mid in nearly every recording; unrelated and far below at once is rare among left and right.
SIDE_BELOW_DB: Final = 3.0
SIDE_FAR_BELOW_DB: Final = 9.0
UNRELATED: Final = 0.25
SAME_ENVELOPE: Final = 0.8
_NAMED_MID_SIDE: Final = re.compile(r"(?:^|[\s._\-(])(?:ms|m-s|mid-?side)(?:$|[\s._\-)])", re.IGNORECASE)


def check_stereo(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:
    sides = measures.sides
    if sides is None or sides.correlation is None or has_silent_channel(measures) or is_empty(measures):
        return
    if sides.identical:
        message = "Left and right are identical, sample for sample: a mono signal in a stereo file."
        yield FileFinding(
            code="dual-mono",
            label="dual mono",
            message=message,
            measured={},
            remedy=make_remedy("fold to mono", "fold", (name,), take="left"),
        )
        return
    if sides.difference_db is not None and sides.difference_db < NEARLY_MONO_DB:
        yield FileFinding(
            code="nearly-mono",
            label="near mono",
            message=f"The L/R difference is {-sides.difference_db:.1f} dB down: effectively mono.",
            measured={"difference_db": sides.difference_db},
            remedy=make_remedy("fold to mono", "fold", (name,), take="sum"),
        )
        return
    if sides.polarity_change is not None:
        yield _about_polarity_change(sides.polarity_change)
        return
    late = list(find_delay(sides, form))
    if not (late and sides.delay.inverted) and (inverted := find_inversion("left and right", sides, form)):
        yield inverted
        return
    if not late and _looks_like_mid_side(name, sides):
        yield FileFinding(
            code="mid-side-like",
            label="M/S encoded",
            message=f"Channel 2 is {sides.balance_db:.1f} dB below channel 1 and uncorrelated with it, as side is with "
            "mid: this looks like M/S, not left and right.",
            measured={"balance_db": sides.balance_db or 0.0, "correlation": sides.correlation},
            remedy=make_remedy("decode", "decode"),
        )
        return
    if not late and _are_unrelated(sides, form):
        yield _about_two_recordings(sides, measures)
        return
    yield from late
    yield from _about_balance(sides, form, measures)


def find_inversion(who: str, sides: StereoMeasures, form: Form) -> FileFinding | None:
    """Two channels out of polarity: as a whole, or as their lows and all their bands say; else None."""
    correlation = sides.correlation or 0.0
    lows = next((band for band in sides.bands if band.high_hz <= LOWS_HZ and band.level_db >= LOWS_SOUND_DB), None)
    in_bands = (
        lows is not None
        and lows.correlation <= LOWS_OPPOSITE
        and correlation <= WHOLE_BELOW
        and all(band.correlation < 0 for band in sides.bands if band.level_db >= BAND_SOUNDS_DB)
        and form.frames >= MIN_SECONDS * form.rate
    )
    if correlation >= OPPOSITE and not in_bands:
        return None
    loss = "everything" if sides.mono_fold_loss_db is None else f"{sides.mono_fold_loss_db:.1f} dB"
    how = f"correlation {format_signed(correlation)}"
    if lows is not None and in_bands:
        below = f"{format_signed(lows.correlation)} below {LOWS_HZ:.0f} Hz"
        how = f"correlation {below}, negative in every band, {format_signed(correlation)} in all"
    return FileFinding(
        code="opposite-polarity",
        label="out of polarity",
        message=f"{capitalize(who)} are out of polarity ({how}): a mono sum would lose {loss}.",
        measured={
            "correlation": correlation,
            "mono_fold_loss_db": sides.mono_fold_loss_db or "inf",
            **({"lows": lows.correlation} if lows else {}),
        },
        remedy=make_remedy("invert right", "polarity", channels="right"),
    )


def _are_unrelated(sides: StereoMeasures, form: Form) -> bool:
    """Whether two channels are separate recordings: next to nothing of one is in the other, and they come and go by
    themselves, or take turns, as two who talk do, each with spill of the other.
    """
    envelopes = sides.envelope_correlation
    if abs(sides.correlation or 0.0) >= NOT_CORRELATED or envelopes is None:
        return False
    apart = envelopes < TAKE_TURNS or (envelopes < OWN_ENVELOPES and sides.coherence < NOT_COHERENT)
    return apart and form.frames >= MIN_SECONDS * form.rate


def _about_two_recordings(sides: StereoMeasures, measures: Measures) -> FileFinding:
    """Two voices, or two of anything, one to a channel."""
    leans = sides.balance_db or 0.0
    turns = (sides.envelope_correlation or 0.0) < TAKE_TURNS
    louder, quieter = ("left", "right") if leans > 0 else ("right", "left")
    message = (
        f"Left and right have nothing in common (correlation {format_signed(sides.correlation or 0.0)}): two recordings"
    )
    message += ", and one is quiet while the other sounds." if turns else "."
    if abs(leans) >= LEANS_DB:
        message += f" {capitalize(louder)} is {abs(leans):.1f} dB louder than {quieter}."
    others = [make_remedy("hush the spill", "level") if turns else None, _both_equally_loud(measures)]
    return FileFinding(
        code="unrelated-channels",
        label="two recordings",
        message=message,
        measured={
            "correlation": sides.correlation or 0.0,
            "coherence": sides.coherence,
            "envelope_correlation": sides.envelope_correlation or 0.0,
            "balance_db": leans,
        },
        remedy=make_remedy("split", "split"),
        others=tuple(remedy for remedy in others if remedy),
    )


def _about_polarity_change(change: PolarityChange) -> FileFinding:
    """One channel is inverted up to a moment, or from it on."""
    inverted_after = change.after < 0
    over = Stretch(start=change.seconds) if inverted_after else Stretch(end=change.seconds)
    where = f"from {change.seconds:.1f} s" if inverted_after else f"up to {change.seconds:.1f} s"
    wrong, right = (change.after, change.before) if inverted_after else (change.before, change.after)
    return FileFinding(
        code="polarity-changes",
        label="polarity changes",
        message=f"Left and right are out of polarity {where} (correlation {format_signed(wrong)}), and in polarity "
        f"{'before' if inverted_after else 'after'} that ({format_signed(right)}).",
        measured={"seconds": change.seconds, "before": change.before, "after": change.after},
        remedy=make_remedy(f"invert right {where}", "polarity", over=over, channels="right"),
    )


def find_delay(sides: StereoMeasures, form: Form) -> Iterator[FileFinding]:
    """A delay between two channels, where it is sure and audible, and whether one of them is inverted besides."""
    delay = sides.delay
    sure = delay.confidence >= SURE_OF_DELAY and delay.confidence >= DELAY_OVER_NEXT * delay.runner_up
    if not sure or abs(delay.samples) < max(2, MIN_DELAY_SECONDS * form.rate):
        return
    by = abs(delay.samples)
    text = format_samples(by)
    later, early = ("right", "left") if delay.samples > 0 else ("left", "right")
    inverted = " and inverted" if delay.inverted else ""
    yield FileFinding(
        code="late-and-inverted" if delay.inverted else "delay",
        label=f"{text} samples late" + (", inverted" if delay.inverted else ""),
        message=f"{capitalize(later)} is {text} samples ({1000 * by / form.rate:.2f} ms) later than {early}{inverted} "
        f"(confidence {delay.confidence:.2f}).",
        measured={"samples": delay.samples, "ms": round(1000 * delay.samples / form.rate, 3),
                  "confidence": delay.confidence},
        remedy=make_remedy(
            "align, invert right" if delay.inverted else "align",
            "align",
            followed_by=(Polarity(channels="right"),) if delay.inverted else (),
            delay=(by, 0) if delay.samples > 0 else (0, by),
        ),
    )  # fmt: skip


def _about_balance(sides: StereoMeasures, form: Form, measures: Measures) -> Iterator[FileFinding]:
    leans = sides.balance_db
    same_sound = sides.coherence >= SAME_SOUND_COHERENCE and form.channels == 2
    if leans is None or abs(leans) < LEANS_DB:
        return
    louder, quieter = ("left", "right") if leans > 0 else ("right", "left")
    level, equal = balance_remedy(leans) if same_sound else None, _both_equally_loud(measures)
    yield FileFinding(
        code="level-difference",
        label=f"{abs(leans):.0f} dB unbalanced",
        message=f"{capitalize(louder)} is {abs(leans):.1f} dB louder than {quieter}.",
        measured={"balance_db": leans},
        # Where one channel is so far below that no gain of ours reaches it, it is crosstalk: a file of its own shows
        # it.
        remedy=level or make_remedy("split", "split"),
        others=() if same_sound or equal is None else (equal,),
    )


def _both_equally_loud(measures: Measures) -> Remedy | None:
    """Of two voices, one to a channel: a mono mix in which each is as loud as the other, by BS.1770."""
    left, right = (channel.loudness_lufs for channel in measures.channels)
    if left is None or right is None:
        return None
    share = 1 / (1 + 10 ** min((right - left) / 20, 300.0))  # far beyond any file, where a float would end
    return make_remedy("one mono mix, both equally loud", "fold", take="blend", blend=round(share, 4))


def _looks_like_mid_side(name: str, sides: StereoMeasures) -> bool:
    below = sides.balance_db or 0.0
    unrelated = abs(sides.correlation or 0.0) < UNRELATED
    if _NAMED_MID_SIDE.search(name):
        return unrelated and below > SIDE_BELOW_DB
    return unrelated and below > SIDE_FAR_BELOW_DB and (sides.envelope_correlation or 0.0) > SAME_ENVELOPE
