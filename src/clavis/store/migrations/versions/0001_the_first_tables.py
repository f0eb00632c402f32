"""the first tables"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:

    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("demo", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
    )
    op.create_table(
        "part",
        sa.Column("id", sa.String(length=60), nullable=False),
        sa.Column("kind", sa.String(length=12), nullable=False),
        sa.Column("retired", sa.Boolean(), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_part")),
    )
    with op.batch_alter_table("part", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_part_kind"), ["kind"], unique=False)

    op.create_table(
        "track",
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("points", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("sha256", name=op.f("pk_track")),
    )
    op.create_table(
        "change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("who", sa.String(length=40), nullable=False),
        sa.Column("page", sa.String(length=32), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("path", sa.String(length=120), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
        sa.Column("after", sa.JSON(), nullable=False),
        sa.Column("undoes", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_change_job_id_job"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_change")),
        sa.UniqueConstraint("job_id", "version", name=op.f("uq_change_job_id")),
    )
    with op.batch_alter_table("change", schema=None) as batch_op:
        batch_op.create_index("ix_change_job_id_path", ["job_id", "path"], unique=False)

    op.create_table(
        "job_part",
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("part_id", sa.String(length=60), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_job_part_job_id_job"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["part_id"], ["part.id"], name=op.f("fk_job_part_part_id_part"), ondelete="RESTRICT"),
        sa.PrimaryKeyConstraint("job_id", "part_id", name=op.f("pk_job_part")),
    )
    op.create_table(
        "job_track",
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("track_sha256", sa.String(length=64), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name=op.f("fk_job_track_job_id_job"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["track_sha256"], ["track.sha256"], name=op.f("fk_job_track_track_sha256_track"), ondelete="RESTRICT"
        ),
        sa.PrimaryKeyConstraint("job_id", "track_sha256", name=op.f("pk_job_track")),
    )


def downgrade() -> None:

    op.drop_table("job_track")
    op.drop_table("job_part")
    with op.batch_alter_table("change", schema=None) as batch_op:
        batch_op.drop_index("ix_change_job_id_path")

    op.drop_table("change")
    op.drop_table("track")
    with op.batch_alter_table("part", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_part_kind"))

    op.drop_table("part")
    op.drop_table("job")
