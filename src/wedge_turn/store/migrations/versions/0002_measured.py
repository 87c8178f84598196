"""What was measured about clips, folders that sources came from, revisions that were amended at once."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "measured",
        sa.Column("key", sa.String(length=64), nullable=False),
        sa.Column("measures", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_measured")),
    )
    op.add_column("revision", sa.Column("amended", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("source", sa.Column("folder", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("source", "folder")
    op.drop_column("revision", "amended")
    op.drop_table("measured")
