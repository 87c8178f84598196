"""A revision that another was made on, or that was delivered, takes nothing with it: it cannot be deleted."""

from alembic import op

revision = "0006"
down_revision = "0005"
_REFERENCES = (("revision", "parent_id"), ("delivery", "revision_id"))


def upgrade() -> None:
    _refer(on_delete=None)


def downgrade() -> None:
    _refer(on_delete="CASCADE")


def _refer(on_delete: str | None) -> None:
    for table, column in _REFERENCES:
        name = f"fk_{table}_{column}_revision"
        with op.batch_alter_table(table) as changed:
            changed.drop_constraint(name, type_="foreignkey")
            changed.create_foreign_key(name, "revision", [column], ["id"], ondelete=on_delete)
