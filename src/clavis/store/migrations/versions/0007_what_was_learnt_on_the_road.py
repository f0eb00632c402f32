"""What jobs learnt on the road, for bikes like them."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "calibration",
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("likeness", sa.String(16), nullable=False),
        sa.Column("title", sa.String(80), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name="fk_calibration_job_id_job", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id", name="pk_calibration"),
    )
    op.create_index("ix_calibration_likeness", "calibration", ["likeness"])


def downgrade() -> None:
    op.drop_index("ix_calibration_likeness", "calibration")
    op.drop_table("calibration")
