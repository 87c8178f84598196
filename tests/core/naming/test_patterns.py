"""Names of delivered files from a pattern."""

from datetime import datetime
from pathlib import Path

import pytest

from support.helpers import engine_on, left_behind, noise, quiet, write_wav
from support.shell import run
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import MANIFEST, REPORT, Order, deliver, name_files
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.naming import Facts, Naming, parse_naming
from wedge_turn.core.turns import Split, Swap

FACTS = Facts("Gull Pass_L", "_L", "split", "L", 7, "Kettle Island Light", "2026-11-26", "44.1", "24")


@pytest.mark.parametrize(
    ("naming", "name"),
    [
        (Naming(), "Gull Pass_L"),
        (Naming(pattern="{n:03}_{name}"), "007_Gull Pass_L"),
        (Naming(pattern="{base}.{turn}{suffix}"), "Gull Pass.split_L"),
        (Naming(pattern="{job} {date} {rate}k{depth} {n}"), "Kettle Island Light 2026-11-26 44.1k24 7"),
        (Naming(pattern="{base} {channel}"), "Gull Pass L"),
        (Naming(pattern="{{{name}}}"), "{Gull Pass_L}"),
        (Naming(case="lower", spaces="underscore"), "gull_pass_l"),
        (Naming(case="upper", spaces="none"), "GULLPASS_L"),
        (Naming(spaces="hyphen"), "Gull-Pass_L"),
    ],
)
def test_a_pattern_is_filled_in(naming: Naming, name: str) -> None:
    assert naming.name(FACTS) == name


@pytest.mark.parametrize(
    ("pattern", "reason"),
    [
        ("{title}", "there is no {title}; there are {name}, {base},"),
        ("{name!r}", "there is no {name}"),
        ("{name.__class__}", "there is no {name.__class__}"),
        ("{0}", "there is no {0}"),
        ("{name", "the pattern has an unclosed brace"),
        ("{name:>20}", "only {n} has digits"),
        ("{n:9999}", "only {n} has digits"),
        (" ", "a pattern holds text"),
        ("a\x07", "a pattern holds text"),
    ],
)
def test_what_is_no_pattern_says_why(pattern: str, reason: str) -> None:
    with pytest.raises(BadRequestError) as refused:
        parse_naming(pattern)
    assert reason in refused.value.message


def test_files_are_called_by_it_and_stay_apart(tmp_path: Path) -> None:
    source = WavFile(write_wav(tmp_path / "in.wav", noise(1, 50, 2)))
    engine = engine_on(Split(), source, names=["gull"])
    refs = tuple(engine.sheet.list_ends())
    today = datetime.now().astimezone().date().isoformat()
    order = Order(refs, naming=Naming(pattern="{date}/{job}{suffix}"), job="A:B")
    assert name_files(engine, order) == [f"{today}_A_B_L.wav", f"{today}_A_B_R.wav"]
    same = Order(refs, naming=Naming(pattern="{base}"))
    assert name_files(engine, same) == ["gull.wav", "gull (2).wav"]
    manifest = deliver(engine, same, tmp_path / "out")
    assert [file.name for file in manifest.files] == ["gull.wav", "gull (2).wav"]
    alone = engine_on(Swap(), source, names=["gull"])
    renamed = Order(tuple(alone.sheet.list_ends()), naming=Naming(pattern="{n:02}_{turn}_{base}{suffix}"))
    assert name_files(alone, renamed) == ["01_swap_gull.wav"]


def test_the_command_names_files_by_a_pattern(tmp_path: Path) -> None:
    song = write_wav(tmp_path / "song.wav", quiet(1, 50, 2))
    done = run("apply", "split", song, "--out", tmp_path / "out", "--name", "{n:02}_{base}{suffix}")
    assert done.returncode == 0, done.stderr
    assert left_behind(tmp_path / "out") == ["01_song_L.wav", "02_song_R.wav", MANIFEST, REPORT]
    refused = run("apply", "split", song, "--out", tmp_path / "out", "--name", "{title}")
    assert (refused.returncode, "there is no {title}" in refused.stderr) == (2, True)


def test_a_channel_is_called_as_its_file_calls_it_or_by_its_suffix(tmp_path: Path) -> None:
    naming = Naming(pattern="{base} {channel}")
    plain = WavFile(write_wav(tmp_path / "plain.wav", noise(1, 50, 2)))
    engine = engine_on(Split(), plain, names=["gull"])
    assert name_files(engine, Order(tuple(engine.sheet.list_ends()), naming=naming)) == ["gull L.wav", "gull R.wav"]
    tracks = "".join(
        f"<TRACK><INTERLEAVE_INDEX>{n}</INTERLEAVE_INDEX><NAME>{name}</NAME></TRACK>"
        for n, name in enumerate(("Boom", "Lav"), 1)
    )
    ixml = f"<BWFXML><TRACK_LIST>{tracks}</TRACK_LIST></BWFXML>".encode()
    poly = WavFile(write_wav(tmp_path / "poly.wav", noise(1, 50, 2), carried=((b"iXML", ixml),)))
    engine = engine_on(Split(), poly, names=["gull"])
    assert name_files(engine, Order(tuple(engine.sheet.list_ends()), naming=naming)) == [
        "gull Boom.wav",
        "gull Lav.wav",
    ]
    whole = engine_on(Swap(), poly, names=["gull"])
    assert name_files(whole, Order(tuple(whole.sheet.list_ends()), naming=naming)) == ["gull.wav"]
