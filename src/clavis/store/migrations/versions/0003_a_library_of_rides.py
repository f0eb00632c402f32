"""a library of rides that jobs share"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "library_ride",
        sa.Column("id", sa.String(length=40), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("track_sha256", sa.String(length=64), nullable=True),
        sa.Column("who", sa.String(length=40), nullable=False),
        sa.Column("kept_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["track_sha256"],
            ["track.sha256"],
            name=op.f("fk_library_ride_track_sha256_track"),
            ondelete="RESTRICT",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_library_ride")),
    )


def downgrade() -> None:
    op.drop_table("library_ride")
