"""The tables."""

from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

from sqlalchemy import JSON, BigInteger, DateTime, ForeignKey, Index, MetaData, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator


def new_id() -> str:
    return uuid4().hex


def now() -> datetime:
    return datetime.now(UTC)


class Moment(TypeDecorator[datetime]):
    """A point in time. SQLite forgets the zone, so it is kept and given back as UTC."""

    impl = DateTime
    cache_ok = True

    def process_result_value(self, value: datetime | None, dialect: Any) -> datetime | None:  # noqa: ARG002
        return value.replace(tzinfo=UTC) if value is not None else None


class Row(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class Job(Row):
    """One body of work. `head_id` is the revision that is shown."""

    __tablename__ = "job"

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(Text)
    created: Mapped[datetime] = mapped_column(Moment, default=now)
    head_id: Mapped[str] = mapped_column(ForeignKey("revision.id", use_alter=True))


class Source(Row):
    """A file as it came in. `media` is the hash of its bytes, `form` what it is, `recorded` what it says about itself
    (null where an earlier version took it in), `folder` where it was dropped from, `note` what the user wrote about it.
    """

    __tablename__ = "source"

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    job_id: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(Text)
    folder: Mapped[str] = mapped_column(Text, default="", server_default="")
    media: Mapped[str] = mapped_column(String(64), index=True)
    bytes: Mapped[int] = mapped_column(BigInteger)
    form: Mapped[dict[str, Any]] = mapped_column(JSON)
    recorded: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    note: Mapped[str] = mapped_column(Text, default="", server_default="")
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class Medium(Row):
    """A kept file: its size and modification time when its content was last checked against its hash, and the hash of
    the PCM that is read, which is its own where it is a PCM WAV.
    """

    __tablename__ = "medium"

    hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    bytes: Mapped[int] = mapped_column(BigInteger)
    modified_ns: Mapped[int] = mapped_column(BigInteger)
    pcm_hash: Mapped[str] = mapped_column(String(64))


class MeasuresRow(Row):
    """What was measured about a clip, by the key of all that decides its samples, and which version measured it."""

    __tablename__ = "measured"

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    version: Mapped[int] = mapped_column(server_default="1")
    measures: Mapped[dict[str, Any]] = mapped_column(JSON)


class FindingRow(Row):
    """Findings of a source, and which version of the rules found them."""

    __tablename__ = "judged"

    source_id: Mapped[str] = mapped_column(ForeignKey("source.id", ondelete="CASCADE"), primary_key=True)
    version: Mapped[int]
    judgement: Mapped[dict[str, Any]] = mapped_column(JSON)


class Revision(Row):
    """A whole plan with its parent. `redo_id` is where redo leads from here; a checkpoint has a name. The database
    refuses to delete one that another was made on, or that was delivered, unless its whole job goes.

    `amended` says that another took its place at once, as while a slider is moved: it is kept for those who are
    still listening to it, and not shown. Where there is a `base_id`, `plan` is what differs from that revision's
    (`store.deltas`). `turns` is how many lines it has.
    """

    __tablename__ = "revision"

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    job_id: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    parent_id: Mapped[str | None] = mapped_column(ForeignKey("revision.id"))
    redo_id: Mapped[str | None] = mapped_column(ForeignKey("revision.id", ondelete="SET NULL"))
    number: Mapped[int]
    label: Mapped[str] = mapped_column(Text)
    name: Mapped[str | None] = mapped_column(Text)
    plan: Mapped[dict[str, Any]] = mapped_column(JSON)
    base_id: Mapped[str | None] = mapped_column(String(32))
    turns: Mapped[int] = mapped_column(default=0, server_default="0")
    amended: Mapped[bool] = mapped_column(default=False, server_default="0")
    created: Mapped[datetime] = mapped_column(Moment, default=now)

    __table_args__ = (Index("ix_revision_job_id_number", "job_id", "number", unique=True),)


class SavedRecipe(Row):
    """Lines that are kept without their files, for every job."""

    __tablename__ = "recipe"

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(Text)
    recipe: Mapped[dict[str, Any]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class Password(Row):
    """The hash of the server's password; one row at most."""

    __tablename__ = "password"

    id: Mapped[int] = mapped_column(primary_key=True)
    hash: Mapped[str] = mapped_column(Text)


class SignIn(Row):
    """A browser that has signed in, by the hash of its token."""

    __tablename__ = "sign_in"

    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class Delivery(Row):
    """A set of files written for the user. `order` is what was asked for, `manifest` what was written."""

    __tablename__ = "delivery"

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    job_id: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    revision_id: Mapped[str] = mapped_column(ForeignKey("revision.id"))
    state: Mapped[str] = mapped_column(String(16))
    order: Mapped[dict[str, Any]] = mapped_column(JSON)
    manifest: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    error: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class SavedSettings(Row):
    """Settings of deliveries that are kept by name, for every job."""

    __tablename__ = "delivery_settings"

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(Text, unique=True)
    settings: Mapped[dict[str, Any]] = mapped_column(JSON)


class DeliveredClip(Row):
    """A clip that was delivered, by its reference, and what decided its samples then."""

    __tablename__ = "delivered_clip"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    delivery_id: Mapped[str] = mapped_column(ForeignKey("delivery.id", ondelete="CASCADE"), index=True)
    ref: Mapped[str] = mapped_column(Text)
    key: Mapped[str] = mapped_column(String(64))


class ProofRow(Row):
    """A proof of a delivery, by the keys of the clips that it is about."""

    __tablename__ = "proved"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    delivery_id: Mapped[str] = mapped_column(ForeignKey("delivery.id", ondelete="CASCADE"), index=True)
    key: Mapped[str] = mapped_column(Text)
    proof: Mapped[dict[str, Any]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(Moment, default=now)
