"""who changed a line of the catalogue"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "part_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.String(length=60), nullable=False),
        sa.Column("who", sa.String(length=40), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=True),
        sa.Column("after", sa.JSON(), nullable=True),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_part_change_part_id_part"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part_change")),
    )
    with op.batch_alter_table("part_change", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_part_change_part_id"), ["part_id"], unique=False)


def downgrade() -> None:
    op.drop_table("part_change")
