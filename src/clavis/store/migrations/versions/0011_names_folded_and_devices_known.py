"""Names of accounts as they are looked for, whatever their case; browsers that are known."""

from unicodedata import normalize

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def _folded(name: str) -> str:
    """As the accounts folded it when this was written."""
    return normalize("NFKC", normalize("NFKC", " ".join(name.split())).casefold())


def upgrade() -> None:
    op.add_column("account", sa.Column("folded", sa.String(200), nullable=False, server_default=""))
    connection, taken = op.get_bind(), set()
    for number, name in connection.execute(sa.text("SELECT id, name FROM account ORDER BY id")).fetchall():
        found = _folded(name)
        if found in taken:  # of two that differ in case alone the later could never come in
            found = f"{found} #{number}"
        taken.add(found)
        connection.execute(sa.text("UPDATE account SET folded = :found WHERE id = :id"), {"found": found, "id": number})
    with op.batch_alter_table("account") as table:
        table.alter_column("folded", server_default=None)
        table.create_unique_constraint("uq_account_folded", ["folded"])
    op.create_table(
        "device",
        sa.Column("account_id", sa.Integer(), nullable=False),
        sa.Column("token_mark", sa.String(64), nullable=False),
        sa.Column("seen_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["account.id"], name="fk_device_account", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("account_id", "token_mark", name="pk_device"),
    )


def downgrade() -> None:
    raise NotImplementedError("older versions are restored from a backup")
