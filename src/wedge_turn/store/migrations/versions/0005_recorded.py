"""What a file says about its recording, kept beside its form."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    # Null for what came in before: it is read when the application starts.
    op.add_column("source", sa.Column("recorded", sa.JSON(), nullable=True))
