"""Headers that more than one router sends."""

from urllib.parse import quote


def as_file(name: str) -> dict[str, str]:
    """The browser saves the answer under this name."""
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
