"""What is on the shelf, what was set aside and ordered for a job, and what the workshop sets for itself."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "stock",
        sa.Column("part_id", sa.String(60), nullable=False),
        sa.Column("pieces", sa.Integer(), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name="fk_stock_part_id_part", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("part_id", name="pk_stock"),
    )
    op.create_table(
        "supply",
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.String(60), nullable=False),
        sa.Column("taken", sa.Integer(), nullable=False),
        sa.Column("ordered", sa.Integer(), nullable=False),
        sa.Column("arrived", sa.Integer(), nullable=False),
        sa.Column("price", sa.Float(), nullable=True),
        sa.Column("promised", sa.String(10), nullable=False),
        sa.Column("number", sa.String(40), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name="fk_supply_job_id_job", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name="fk_supply_part_id_part", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id", "part_id", name="pk_supply"),
    )

    op.create_table(
        "workshop",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_workshop"),
    )


def downgrade() -> None:
    op.drop_table("workshop")
    op.drop_table("supply")
    op.drop_table("stock")
