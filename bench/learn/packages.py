"""The sounds that songs are made of: Debian packages, fetched and unpacked into a folder of their own.

No package, voice or font serves in two of `TEACHING`, `CHOOSING` (which weights are kept) and `JUDGING`
(`make bench-centre`).
"""

import subprocess
from dataclasses import dataclass
from pathlib import Path
from typing import Final

FOLDER: Final = Path(__file__).parents[2] / ".cache" / "learn"
_UNPACKED: Final = FOLDER / "packages"


@dataclass(frozen=True)
class Sounds:
    """What one purpose may use: packages, and file patterns within them."""

    packages: tuple[str, ...]
    fonts: tuple[str, ...]
    syllables: tuple[str, ...]  # languages of klettres-data
    espeak: tuple[str, ...]  # voices of espeak-ng
    speech: tuple[str, ...]  # recorded words, spoken and shouted
    records: tuple[str, ...]  # music without a voice
    drums: tuple[str, ...]  # single hits


PACKAGES: Final[dict[str, str]] = {
    "klettres-data": "syllables in many languages, GPL-2+",
    "fluid-soundfont-gm": "FluidR3 GM, MIT",
    "timgm6mb-soundfont": "TimGM6mb, GPL-2",
    "musescore-general-soundfont-small": "MuseScore General, MIT",
    "hydrogen-drumkits": "drum samples, GPL-2+ and CC",
    "fillets-ng-data-cs": "dialogue in Czech, GPL-2+",
    "fillets-ng-data-nl": "dialogue in Dutch, GPL-2+",
    "fillets-ng-data": "music, GPL-2+",
    "hedgewars-data": "shouts in many languages, and music, GPL-2 and GFDL",
    "tuxpaint-stamps-default": "names of things, spoken, GPL-2+",
    "wesnoth-1.16-music": "orchestral music, GPL-2+",
    "lincity-ng-data": "music, GPL-2+ and CC-BY-SA",
    "singularity-music": "electronic music, GPL-2+ and CC-BY-SA",
    "warzone2100-music": "rock and electronic music, GPL-2+ and CC-BY-SA",
    "frozen-bubble-data": "music, GPL-2",
    "neverball-data": "music, GPL-2+",
    "supertux-data": "music, GPL-3+ and CC-BY-SA",
}

TEACHING: Final = Sounds(
    packages=(
        "klettres-data", "fluid-soundfont-gm", "timgm6mb-soundfont", "hydrogen-drumkits", "fillets-ng-data-cs",
        "fillets-ng-data", "hedgewars-data", "tuxpaint-stamps-default", "wesnoth-1.16-music", "lincity-ng-data",
        "singularity-music", "warzone2100-music", "frozen-bubble-data",
    ),
    fonts=("usr/share/sounds/sf2/FluidR3_GM.sf2", "usr/share/sounds/sf2/TimGM6mb.sf2"),
    syllables=("da", "en", "es", "ml", "hu", "pt_BR", "ar", "nb"),
    espeak=("en+f2", "en-us+m3", "es+f4", "de+m1", "it+f3", "pl+m5", "sv+f1"),
    speech=("fillets-ng*/sound/**/cs/*.ogg", "hedgewars/Data/Sounds/voices/**/*.ogg", "tuxpaint/stamps/**/*.ogg"),
    records=(
        "wesnoth*/data/core/music/*.ogg", "wesnoth/*/data/core/music/*.ogg", "lincity-ng/music/**/*.ogg",
        "singularity/music/**/*.ogg", "warzone2100/music/**/*.opus", "warzone2100/music/**/*.ogg",
        "fillets-ng*/music/*.ogg", "hedgewars/Data/Music/*.ogg", "frozen-bubble/snd/*.ogg",
    ),
    drums=("hydrogen/data/drumkits/**/*.flac", "hydrogen/data/drumkits/**/*.wav"),
)  # fmt: skip
CHOOSING: Final = Sounds(
    packages=("klettres-data", "musescore-general-soundfont-small", "neverball-data"),
    fonts=("usr/share/sounds/sf3/*.sf3",),
    syllables=("fr", "nl", "cs"),
    espeak=("fr+m5",),
    speech=(),
    records=("neverball/bgm/*.ogg",),
    drums=(),
)
JUDGING: Final = Sounds(
    packages=("fillets-ng-data-nl", "supertux-data"),
    fonts=(),
    syllables=(),
    espeak=(),
    speech=("fillets-ng*/sound/**/nl/*.ogg",),
    records=("supertux*/music/**/*.ogg",),
    drums=(),
)


def fetch(sounds: Sounds | None = None) -> None:
    """Download and unpack what is missing: all packages, or those of one purpose. Raises
    subprocess.CalledProcessError where one can't be had.
    """
    loaded = FOLDER / "downloads"
    loaded.mkdir(parents=True, exist_ok=True)
    for package in sounds.packages if sounds else PACKAGES:
        done = _UNPACKED / ".done" / package
        if not done.exists():
            print(f"Fetching {package} ({PACKAGES[package]})", flush=True)
            subprocess.run(["apt-get", "download", "-qq", package], cwd=loaded, check=True, stderr=subprocess.DEVNULL)
            (archive,) = loaded.glob(f"{package}_*.deb")
            subprocess.run(["dpkg", "-x", archive, _UNPACKED], check=True)
            archive.unlink()
            done.parent.mkdir(exist_ok=True)
            done.touch()


def files(patterns: tuple[str, ...]) -> list[Path]:
    """The unpacked files that match, sorted: below usr/share, or usr/share/games."""
    paths: set[Path] = set()
    for pattern in patterns:
        if pattern.startswith("usr/"):
            paths.update(_UNPACKED.glob(pattern))
        else:
            for base in ("usr/share", "usr/share/games"):
                paths.update((_UNPACKED / base).glob(pattern))
    return sorted(path for path in paths if path.is_file())
