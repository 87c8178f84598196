"""What goes over the wire about deliveries: what is asked for, what would be written, and what became of it."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from wedge_turn.core.delivery import Manifest
from wedge_turn.core.form import DepthName
from wedge_turn.core.turns import Trim
from wedge_turn.core.worksheet import Ref
from wedge_turn.store.order import DeliverySettings

DeliveryState = Literal["waiting", "writing", "done", "failed", "stopped"]


class DeliveryView(BaseModel):
    """A delivery. `to` is the folder on the server that it went to, None where it waits to be fetched; `files_done` of
    `files` are written and proved while it is under way, and `seconds_left` is what that may still take.
    """

    id: str
    revision: str
    state: DeliveryState
    progress: float
    created: datetime
    refs: tuple[Ref, ...]
    copies: tuple[Ref, ...]
    range: Trim | None
    settings: DeliverySettings
    to: str | None
    manifest: Manifest | None
    files_done: int
    files: int
    seconds_left: float | None
    error: dict[str, str] | None


class PlannedFile(BaseModel):
    """A file that a delivery would write; `bytes` is the most it may take where it isn't a WAV. `outside` is why the
    delivery's range leaves nothing of it, `refused` why its format can't hold it, else None. `over_db` is by how much
    its highest sample is above full scale, 0 where none is clipped, None where that isn't known yet,
    and `lower_db` what it would have to come down by, together with the other results of its line.
    """

    ref: Ref
    file: str
    depth: DepthName
    frames: int
    start_time: int | None
    bytes: int
    dithered: bool
    outside: str | None
    refused: str | None
    over_db: float | None
    lower_db: float


class NewDelivery(DeliverySettings):
    """What to deliver; all results that no later turn uses where `refs` and `copies` are empty. `range` is what each is
    trimmed to, in the files' own time or in recorded time. `copies` are sources that go along byte for byte, `to` is a
    folder on the server, within the one that it offers.
    """

    revision: str
    refs: tuple[Ref, ...] = Field(default=(), max_length=10_000)
    copies: tuple[Ref, ...] = Field(default=(), max_length=10_000)
    range: Trim | None = None
    to: str | None = Field(default=None, max_length=200)


class DeliveryFolder(BaseModel):
    """The folder on the server that can be delivered to, by its name, None without one, and the folders in it."""

    name: str | None
    folders: list[str]


class NewSettings(BaseModel):
    name: str = Field(min_length=1, max_length=200)
    settings: DeliverySettings


class SettingsView(NewSettings):
    """Settings of deliveries that are kept under a name."""

    id: str
