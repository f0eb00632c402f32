"""What jobs learnt on the road, for bikes like them; and logged rides."""

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
    op.create_table(
        "ride_log",
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("columns", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("sha256", name="pk_ride_log"),
    )
    op.create_index("ix_calibration_likeness", "calibration", ["likeness"])


def downgrade() -> None:
    op.drop_table("ride_log")
    op.drop_index("ix_calibration_likeness", "calibration")
    op.drop_table("calibration")
