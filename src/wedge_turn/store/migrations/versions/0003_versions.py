"""Versions of what is measured, findings by source, facts about kept files, proofs by the clips they are about."""

import json

import sqlalchemy as sa
from alembic import op

from wedge_turn.store.rows import Moment

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    # Measures of before have no version: they are counted as the first, and measured again when it is not today's.
    op.add_column("measured", sa.Column("version", sa.Integer(), nullable=False, server_default="1"))
    op.create_table(
        "judged",
        sa.Column("source_id", sa.String(length=32), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("judgement", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["source_id"], ["source.id"], name=op.f("fk_judged_source_id_source"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("source_id", name=op.f("pk_judged")),
    )
    op.create_table(
        "medium",
        sa.Column("hash", sa.String(length=64), nullable=False),
        sa.Column("bytes", sa.BigInteger(), nullable=False),
        sa.Column("modified_ns", sa.BigInteger(), nullable=False),
        sa.Column("pcm_hash", sa.String(length=64), nullable=False),
        sa.PrimaryKeyConstraint("hash", name=op.f("pk_medium")),
    )
    op.create_table(
        "proved",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("delivery_id", sa.String(length=32), nullable=False),
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("proof", sa.JSON(), nullable=False),
        sa.Column("created", Moment(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_proved_job_id_job"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["delivery_id"], ["delivery.id"], name=op.f("fk_proved_delivery_id_delivery"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_proved")),
    )
    op.create_index(op.f("ix_proved_job_id"), "proved", ["job_id"], unique=False)
    op.create_index(op.f("ix_proved_delivery_id"), "proved", ["delivery_id"], unique=False)
    _file_proofs()


def _file_proofs() -> None:
    """Take the proofs out of the manifests, where they were looked for until now."""
    connection = op.get_bind()
    rows = connection.execute(sa.text("SELECT id, job_id, manifest, created FROM delivery WHERE manifest IS NOT NULL"))
    for delivery, job, manifest, created in rows.all():
        for proof in (json.loads(manifest) or {}).get("proofs", []):
            connection.execute(
                sa.text(
                    "INSERT INTO proved (job_id, delivery_id, key, proof, created) "
                    "VALUES (:job, :delivery, :key, :proof, :at)"
                ),
                {
                    "job": job,
                    "delivery": delivery,
                    "key": proof["key"],
                    "proof": json.dumps(proof["proof"]),
                    "at": created,
                },
            )


def downgrade() -> None:
    for table in ("proved", "medium", "judged"):
        op.drop_table(table)
    op.drop_column("measured", "version")
