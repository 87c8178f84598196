"""Jobs, revisions, sources and deliveries."""

import sqlalchemy as sa
from alembic import op

from wedge_turn.store.rows import Moment

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "job",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("created", Moment(), nullable=False),
        sa.Column("head_id", sa.String(length=32), nullable=False),
        sa.ForeignKeyConstraint(["head_id"], ["revision.id"], name=op.f("fk_job_head_id_revision"), use_alter=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("parent_id", sa.String(length=32), nullable=True),
        sa.Column("redo_id", sa.String(length=32), nullable=True),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=True),
        sa.Column("plan", sa.JSON(), nullable=False),
        sa.Column("created", Moment(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_revision_job_id_job"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["parent_id"], ["revision.id"], name=op.f("fk_revision_parent_id_revision"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["redo_id"], ["revision.id"], name=op.f("fk_revision_redo_id_revision"), ondelete="SET NULL"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_revision")),
    )
    op.create_index(op.f("ix_revision_job_id"), "revision", ["job_id"], unique=False)
    op.create_index("ix_revision_job_id_number", "revision", ["job_id", "number"], unique=True)
    op.create_table(
        "source",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("media", sa.String(length=64), nullable=False),
        sa.Column("bytes", sa.BigInteger(), nullable=False),
        sa.Column("form", sa.JSON(), nullable=False),
        sa.Column("created", Moment(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_source_job_id_job"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_source")),
    )
    op.create_index(op.f("ix_source_job_id"), "source", ["job_id"], unique=False)
    op.create_index(op.f("ix_source_media"), "source", ["media"], unique=False)
    op.create_table(
        "delivery",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("revision_id", sa.String(length=32), nullable=False),
        sa.Column("state", sa.String(length=16), nullable=False),
        sa.Column("order", sa.JSON(), nullable=False),
        sa.Column("manifest", sa.JSON(), nullable=True),
        sa.Column("error", sa.JSON(), nullable=True),
        sa.Column("created", Moment(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_delivery_job_id_job"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["revision_id"], ["revision.id"], name=op.f("fk_delivery_revision_id_revision"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_delivery")),
    )
    op.create_index(op.f("ix_delivery_job_id"), "delivery", ["job_id"], unique=False)


def downgrade() -> None:
    for table in ("delivery", "source", "revision", "job"):
        op.drop_table(table)
