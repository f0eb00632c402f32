"""A line of the catalogue has a version, and the catalogue a counter that moves with every change of a line: a clock
that was wrong once hides nothing."""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("alter table part add column version integer not null default 1")
    op.execute("create table counter (name varchar(20) not null, value integer not null, "
               "constraint pk_counter primary key (name))")  # fmt: skip
    op.execute("insert into counter (name, value) values ('catalogue', 1)")
    moved = "update counter set value = value + 1 where name = 'catalogue';"
    for what in ("insert", "update", "delete"):
        op.execute(f"create trigger part_counted_{what} after {what} on part begin {moved} end")


def downgrade() -> None:
    raise NotImplementedError("older versions are restored from a backup")
