"""Imports of parts on their way: what ends the program between two pieces of one does not leave half of it."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "part_import",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("moved_at", sa.DateTime(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("taken", sa.Integer(), nullable=False),
        sa.Column("lines", sa.LargeBinary(), nullable=False),
        sa.Column("broken_at", sa.Integer(), nullable=True),
        sa.Column("trouble", sa.String(300), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_part_import"),
    )


def downgrade() -> None:
    raise NotImplementedError("older versions are restored from a backup")
