"""What a file says, and shows, of what it went through: an early end, a lossy ancestor, several sound tracks, tracks
left out.

CodingHistory  A=MPEG1L3, A=AAC … before the last line   EBU R 98-1999
encoder        the name of a lossy encoder in the tags of a file that isn't lossy
spectrum       ends sharply between 14 and 20.5 kHz      `core.measure.bandwidth`
"""

import re
from collections.abc import Iterator
from typing import Final

from wedge_turn.core.findings.finding import FileFinding, make_remedy
from wedge_turn.core.form import Form, format_channels
from wedge_turn.core.measure import Measures
from wedge_turn.core.metadata import Recorded

_LOSSY_CODING: Final = re.compile(r"\bA=(MPEG\w*|AAC\w*|AC-?3\w*|OPUS\w*|VORBIS\w*|ATRAC\w*|DOLBY\w*)", re.IGNORECASE)
_LOSSY_ENCODER: Final = re.compile(r"\b(LAME|MP3|AAC|Vorbis|libvorbis|libopus|Opus|ATRAC)", re.IGNORECASE)


def find_in_origin(name: str, form: Form, measures: Measures, recorded: Recorded) -> list[FileFinding]:
    """What there is to know about where a file comes from."""
    return [
        *_about_the_end(form),
        *_about_tracks(recorded),
        *find_tracks_left_out(name, recorded),
        *_about_ancestor(form, recorded),
        *_about_spectrum(form, measures),
    ]


def _about_the_end(form: Form) -> Iterator[FileFinding]:
    if form.broken_off is not None:
        yield FileFinding(
            code="incomplete",
            label="incomplete",
            message=f"The file is incomplete: {form.broken_off.describe(form.rate)}.",
            measured={"frames": form.broken_off.frames},
        )


def _about_tracks(recorded: Recorded) -> Iterator[FileFinding]:
    tracks = recorded.sound_tracks
    if tracks:
        listed = ", ".join(f"{track.name} ({format_channels(track.channels)})" for track in tracks)
        yield FileFinding(
            code="sound-tracks",
            label=f"{len(tracks)} sound tracks",
            message=f"{len(tracks)} sound tracks, side by side in this order: {listed}.",
            measured={"tracks": len(tracks)},
            remedy=make_remedy("split by track", "split", parts=tuple(track.channels for track in tracks)),
        )


def find_tracks_left_out(name: str, recorded: Recorded) -> Iterator[FileFinding]:
    """Sound tracks of a film that are not read."""
    if message := recorded.explain_left_out(name):
        yield FileFinding(code="tracks-left-out", label="track not read", message=message)


def _about_ancestor(form: Form, recorded: Recorded) -> Iterator[FileFinding]:
    if form.lossy:
        return
    coded = next((match[1] for line in recorded.history if (match := _LOSSY_CODING.search(line))), None)
    wrote = recorded.encoder if _LOSSY_ENCODER.search(recorded.encoder) else None
    if coded is None and wrote is None:
        return
    says = f"CodingHistory names {coded}" if coded else f"The file says that {wrote} wrote it"
    yield FileFinding(
        code="lossy-ancestor",
        label="lossy source",
        message=f"{says}: these samples were decoded from a lossy file. Ask for the original.",
        measured={"coding": coded or wrote or ""},
    )


def _about_spectrum(form: Form, measures: Measures) -> Iterator[FileFinding]:
    end = measures.sharp_end
    if form.lossy or end is None:
        return
    yield FileFinding(
        code="lossy-spectrum",
        label=f"ends at {end.hertz / 1000:.1f} kHz",
        message=f"The spectrum falls by {end.drop_db:.0f} dB at {end.hertz / 1000:.1f} kHz, within 600 Hz: lossy coding"
        " does that, microphones and converters don't (threshold 40 dB). Ask for the original.",
        measured={"hertz": end.hertz, "drop_db": end.drop_db},
    )
