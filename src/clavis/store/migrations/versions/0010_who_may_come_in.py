"""Accounts, for a workshop whose pages are reached over a network, and their sessions."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "account",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("password_hash", sa.String(200), nullable=False),
        sa.Column("role", sa.String(12), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_account"),
        sa.UniqueConstraint("name", name="uq_account_name"),
    )
    op.create_table(
        "session",
        sa.Column("token_mark", sa.String(64), nullable=False),
        sa.Column("account_id", sa.Integer(), nullable=False),
        sa.Column("begun_at", sa.DateTime(), nullable=False),
        sa.Column("seen_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["account_id"], ["account.id"], name="fk_session_account_id_account", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("token_mark", name="pk_session"),
    )
    op.create_index("ix_session_account_id", "session", ["account_id"])


def downgrade() -> None:
    raise NotImplementedError("older versions are restored from a backup")
