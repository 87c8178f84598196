"""Names as they are given, as they are shown, and names that every file system takes."""

import re
import unicodedata
from collections.abc import Iterable, Sequence
from typing import Final

from pathvalidate import sanitize_filename

from wedge_turn.core.errors import BadNameError

MAX_NAME: Final = 180  # bytes of UTF-8: leaves room for endings, a number and a temporary mark below 255


def stem(name: str) -> str:
    """A file's name without its last extension of up to five letters or digits."""
    return re.sub(r"(?<=.)\.[A-Za-z0-9]{1,5}$", "", name)


def check_given_name(name: str) -> str:
    """The name a file was given, as it will be shown. Raises BadNameError for what no file can be called.

    Folders are cut off, and so are invisible characters: control characters and marks of writing direction
    could make a name look like another.
    """
    base = unicodedata.normalize("NFC", name.replace("\\", "/").rsplit("/", 1)[-1])
    visible = "".join(c for c in base if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Cn")).strip()
    if not visible.strip(". "):
        raise BadNameError("A file needs a name")
    return shorten(visible, 255)


def check_given_folder(folder: str) -> str:
    """The folder a file was dropped from, as it will be shown: only for the eye, never a path on this machine."""
    parts = [part for part in folder.replace("\\", "/").split("/") if part.strip(". ")]
    return shorten("/".join(check_given_name(part) for part in parts), 1000)


def is_plain_text(text: str) -> bool:
    """Whether a text can be stored and shown: no control characters, no surrogates without their other half."""
    return not any(unicodedata.category(c) in ("Cc", "Cs") for c in text)


def clean_text(text: str, limit: int) -> str:
    """The first `limit` characters of a text that are plain."""
    return "".join(c for c in text if is_plain_text(c))[:limit]


def shorten(text: str, limit: int) -> str:
    """The text cut to at most `limit` bytes of UTF-8, whole characters only."""
    return text.encode(errors="ignore")[:limit].decode(errors="ignore")


def join_words(words: Sequence[str]) -> str:
    """Words as they are read out: the last after “and”, of many only how many more there are."""
    if len(words) > 8:
        return f"{', '.join(words[:6])} and {len(words) - 6} more"
    return f"{', '.join(words[:-1])} and {words[-1]}" if len(words) > 1 else words[0]


# What files of sound are called, those of movies among them.
_SOUND: Final = frozenset({
    "wav", "wave", "bwf", "rf64", "bw64", "w64", "aif", "aiff", "aifc", "flac", "caf", "au", "snd", "mp3", "mp2", "ogg",
    "oga", "opus", "m4a", "aac", "wv", "wma", "ac3", "amr", "mp4", "m4v", "mov", "mkv", "webm", "avi", "mxf",
})  # fmt: skip


def is_named_as_sound(name: str) -> bool:
    """Whether a file's extension promises sound."""
    return split_name(name)[1].lstrip(".").lower() in _SOUND


def is_inside(name: str) -> bool:
    """Whether a relative path, as in `drums/kick.wav`, stays within the folder that it starts from."""
    return "\0" not in name and all(part not in ("", ".", "..") for part in name.split("/"))


def split_name(name: str) -> tuple[str, str]:
    """A file's name and its extension with the dot, which may be empty."""
    return stem(name), name[len(stem(name)) :]


def make_file_names(stems: Iterable[tuple[str, str]]) -> list[str]:
    """A file name for each name and extension that common file systems take, different even where upper and lower case
    are the same.
    """
    used: set[str] = set()
    names: list[str] = []
    for want, extension in stems:
        base = sanitize_filename(unicodedata.normalize("NFC", want), replacement_text="_", platform="universal")
        base = "".join(c for c in base if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Cn"))
        base = shorten(base.strip(" ."), MAX_NAME).rstrip(" .") or "clip"
        name, number = base, 1
        while (name + extension).casefold() in used:
            number += 1
            name = f"{base} ({number})"
        used.add((name + extension).casefold())
        names.append(name + extension)
    return names
