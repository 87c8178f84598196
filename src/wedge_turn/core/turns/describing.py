"""Turns and their settings in words: for the documents, and for whoever asks for help in a shell."""

import shlex
import sys
from dataclasses import dataclass
from typing import Any, Final

from wedge_turn.core.turns.base import Turn

# File names for the examples: by turn, otherwise by the channels of each input.
_NAMES_OF_TURNS: Final = {"decode": ("song_mid.wav", "song_side.wav")}
_NAMES: Final = {(2,): ("song.wav",), (1, 1): ("song_L.wav", "song_R.wav"), (2, 2): ("song.wav", "room.wav")}


@dataclass(frozen=True)
class SettingWords:
    """A setting: its default as it is written in a shell, the values it takes, and what it is."""

    name: str
    default: str
    values: str
    what: str


def describe_turn(turn: type[Turn]) -> str:
    """What a turn does, as its module says it."""
    return (sys.modules[turn.__module__].__doc__ or "").strip()


def describe_settings(turn: type[Turn]) -> list[SettingWords]:
    """All settings of a turn."""
    properties = turn.model_json_schema()["properties"]
    return [
        SettingWords(name, _as_typed(field.default), _describe_values(properties[name]), field.description or "")
        for name, field in turn.model_fields.items()
        if name != "kind"
    ]


def write_example(turn: type[Turn]) -> str:
    """A command that applies a turn to files: with the settings and inputs of its example."""
    kind = turn.model_fields["kind"].default
    files = _NAMES_OF_TURNS.get(kind) or _NAMES[turn.example.channels]
    settings = [
        part for name, value in turn.example.settings.items() for part in ("--set", f"{name}={_as_typed(value)}")
    ]
    return shlex.join(["wedge-turn", "apply", kind, *files, "--out", "OUT", *settings])


def write_turn(turn: Turn) -> str:
    """A turn as `apply` takes it, with the settings that aren't the usual ones: *fold --set take=left*."""
    fields = type(turn).model_fields
    settings = [
        f" --set {name}={_as_typed(value)}"
        for name in fields
        if name != "kind" and (value := getattr(turn, name)) != fields[name].default
    ]
    return turn.kind + "".join(settings)


def _as_typed(value: object) -> str:
    if isinstance(value, tuple):
        return ",".join(map(_as_typed, value))
    if isinstance(value, bool):
        return str(value).lower()
    return "" if value is None else f"{value:.10g}" if isinstance(value, float) else str(value)


def _describe_values(schema: dict[str, Any]) -> str:
    """The values that a schema allows, as in *-60 to 12, off*."""
    if "anyOf" in schema:
        return ", ".join(filter(None, map(_describe_values, schema["anyOf"])))
    if "enum" in schema:
        return ", ".join(filter(None, schema["enum"]))
    if "const" in schema:
        return str(schema["const"])
    match schema.get("type"):
        case "number" | "integer" as kind:
            kind_of_number = "whole numbers " if kind == "integer" else ""
            return f"{kind_of_number}{schema['minimum']:,.10g} to {schema['maximum']:,.10g}"
        case "boolean":
            return "true, false"
        case "array" if "$ref" not in schema["items"]:
            least, most = schema.get("minItems"), schema.get("maxItems")
            number = f" ({least} values)" if least is not None and least == most else ""
            return f"{_describe_values(schema['items'])}, separated by commas{number}"
        case "string" if schema.get("pattern", "").endswith("s$"):
            return "samples as 480s"
        case "string" if "@" in schema.get("pattern", ""):
            return "time code as 01:00:00:12"
        case "null":
            return ""
        case _:
            return "text"
