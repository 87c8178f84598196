"""A file in place of another: what is different about it, in words."""

from collections.abc import Iterator

from wedge_turn.core.form import Form, depth_text, format_channels
from wedge_turn.core.measure import Measures

# Less than this is not worth a word.
LOUDER_DB = 0.1


def describe_differences(old: Form, new: Form, before: Measures | None, after: Measures | None) -> list[str]:
    """How a file differs from the one whose place it takes, as far as both are measured; empty where it doesn't."""
    return list(_of_forms(old, new)) + list(_of_levels(before, after))


def _of_forms(old: Form, new: Form) -> Iterator[str]:
    if new.channels != old.channels:
        yield f"{format_channels(new.channels)} instead of {format_channels(old.channels)}"
    if new.rate != old.rate:
        yield f"{new.rate / 1000:g} kHz instead of {old.rate / 1000:g} kHz"
    elif new.frames != old.frames:
        longer = "longer" if new.frames > old.frames else "shorter"
        yield f"{_time(abs(new.frames - old.frames), new.rate)} {longer}"
    if new.encoding != old.encoding:
        yield f"{depth_text(new.stored.depth)} instead of {depth_text(old.stored.depth)}"
    if new.start_time is not None and old.start_time is not None and new.rate == old.rate:
        later = new.start_time - old.start_time
        if later:
            yield f"starts {_time(abs(later), new.rate)} {'later' if later > 0 else 'earlier'}"


def _of_levels(before: Measures | None, after: Measures | None) -> Iterator[str]:
    if before is None or after is None:
        return
    levels = before.whole.rms_dbfs, after.whole.rms_dbfs
    if levels[0] is None or levels[1] is None:
        return
    by = levels[1] - levels[0]
    if abs(by) >= LOUDER_DB:
        yield f"{abs(by):.1f} dB {'louder' if by > 0 else 'lower'}"


def _time(frames: int, rate: int) -> str:
    """Short times in samples, longer ones in seconds."""
    if frames >= rate // 10:
        return f"{frames / rate:.2f} s"
    return "1 sample" if frames == 1 else f"{frames:,} samples"
