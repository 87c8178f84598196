"""Recipes, notes on files, plans stored by what differs from an earlier one, what was delivered, settings for
it, a password and who has signed in.
"""

import sqlalchemy as sa
from alembic import op

from wedge_turn.store.rows import Moment

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("revision", sa.Column("base_id", sa.String(length=32), nullable=True))
    op.add_column("revision", sa.Column("turns", sa.Integer(), nullable=False, server_default="0"))
    op.execute(
        "UPDATE revision SET turns = coalesce(json_array_length(plan, '$.steps'), 0) "
        "WHERE json_valid(plan) AND json_type(plan, '$.steps') = 'array'"
    )
    op.add_column("source", sa.Column("note", sa.Text(), nullable=False, server_default=""))
    op.create_table(
        "recipe",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("recipe", sa.JSON(), nullable=False),
        sa.Column("created", Moment(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_recipe")),
    )
    op.create_table(
        "delivery_settings",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("settings", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_delivery_settings")),
        sa.UniqueConstraint("name", name=op.f("uq_delivery_settings_name")),
    )
    op.create_table(
        "delivered_clip",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("delivery_id", sa.String(length=32), nullable=False),
        sa.Column("ref", sa.Text(), nullable=False),
        sa.Column("key", sa.String(length=64), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_delivered_clip_job_id_job"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["delivery_id"], ["delivery.id"], name=op.f("fk_delivered_clip_delivery_id_delivery"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_delivered_clip")),
    )
    op.create_table(
        "password",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("hash", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_password")),
    )
    op.create_table(
        "sign_in",
        sa.Column("token", sa.String(length=64), nullable=False),
        sa.Column("created", Moment(), nullable=False),
        sa.PrimaryKeyConstraint("token", name=op.f("pk_sign_in")),
    )
    op.create_index(op.f("ix_delivered_clip_job_id"), "delivered_clip", ["job_id"])
    op.create_index(op.f("ix_delivered_clip_delivery_id"), "delivered_clip", ["delivery_id"])


def downgrade() -> None:
    op.drop_table("sign_in")
    op.drop_table("password")
    op.drop_table("delivered_clip")
    op.drop_table("delivery_settings")
    op.drop_table("recipe")
    op.drop_column("source", "note")
    op.drop_column("revision", "turns")
    op.drop_column("revision", "base_id")
