"""Recipes, notes on files, and plans stored by what differs from an earlier one."""

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


def downgrade() -> None:
    op.drop_table("recipe")
    op.drop_column("source", "note")
    op.drop_column("revision", "turns")
    op.drop_column("revision", "base_id")
