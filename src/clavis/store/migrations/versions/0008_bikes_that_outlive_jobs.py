"""Bikes and people that outlive jobs, what the board shows of every job, what is due, photographs, and the search."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

# What is searched: kind of row, its table, its key, its title, and the text beside it. Triggers keep it, so that no way
# of writing a row can forget it.
_JOB_BODY = """
    coalesce(json_extract(new.document, '$.rider.name'), '') || ' ' ||
    coalesce(json_extract(new.document, '$.complaint_words'), '') || ' ' ||
    replace(coalesce(json_extract(new.document, '$.complaints'), ''), '_', ' ') || ' ' ||
    coalesce(json_extract(new.document, '$.stay.mechanic'), '')"""
_PART_TITLE = """trim(coalesce(json_extract(new.document, '$.maker'), '') || ' ' ||
    coalesce(json_extract(new.document, '$.model'), ''))"""
SEARCHED = (
    ("job", "job", "new.id", "coalesce(json_extract(new.document, '$.title'), '')", _JOB_BODY),
    ("bike", "bike", "new.id", "new.name", "new.frame_number || ' ' || new.fleet"),
    ("person", "person", "new.id", "new.name", "new.phone || ' ' || new.email"),
    ("part", "part", "new.id", _PART_TITLE, "new.kind || ' ' || new.id"),
)


def _triggers(kind: str, table: str, key: str, title: str, body: str) -> list[str]:
    put = f"""insert into search_entry (kind, ref, title, body) values ('{kind}', {key}, {title}, {body})
        on conflict (kind, ref) do update set title = excluded.title, body = excluded.body
        where title <> excluded.title or body <> excluded.body;"""  # noqa: S608
    gone = f"delete from search_entry where kind = '{kind}' and ref = old.id;"  # noqa: S608
    return [
        f"create trigger {table}_search_new after insert on {table} begin {put} end",
        f"create trigger {table}_search_set after update on {table} begin {put} end",
        f"create trigger {table}_search_gone after delete on {table} begin {gone} end",
    ]


# The full-text index keeps no text of its own: these three are what SQLite's manual asks for then.
_INDEX = (
    """create virtual table search_index using fts5(
        title, body, content='search_entry', content_rowid='id',
        tokenize="unicode61 remove_diacritics 2", prefix='1 2 3')""",
    """create trigger search_entry_new after insert on search_entry begin
        insert into search_index (rowid, title, body) values (new.id, new.title, new.body); end""",
    """create trigger search_entry_gone after delete on search_entry begin
        insert into search_index (search_index, rowid, title, body)
            values ('delete', old.id, old.title, old.body); end""",
    """create trigger search_entry_set after update on search_entry begin
        insert into search_index (search_index, rowid, title, body) values ('delete', old.id, old.title, old.body);
        insert into search_index (rowid, title, body) values (new.id, new.title, new.body); end""",
)


def upgrade() -> None:
    _people_and_bikes()
    _rows_of_the_board()
    op.create_table(
        "photo",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("bike_id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("picture", sa.LargeBinary(), nullable=False),
        sa.Column("small", sa.LargeBinary(), nullable=False),
        sa.Column("width_px", sa.Integer(), nullable=False),
        sa.Column("height_px", sa.Integer(), nullable=False),
        sa.Column("caption", sa.String(120), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["bike_id"], ["bike.id"], name="fk_photo_bike_id_bike", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name="fk_photo_job_id_job", ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name="pk_photo"),
    )
    op.create_index("ix_photo_bike_id", "photo", ["bike_id"])
    op.create_table(
        "search_entry",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("ref", sa.String(60), nullable=False),
        sa.Column("title", sa.String(200), nullable=False),
        sa.Column("body", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_search_entry"),
        sa.UniqueConstraint("kind", "ref", name="uq_search_entry_kind"),
    )
    for statement in _INDEX:
        op.execute(statement)
    for kind, table, key, title, body in SEARCHED:
        for statement in _triggers(kind, table, key, title, body):
            op.execute(statement)
    op.execute("update part set kind = kind")  # what is there already is found as well
    op.execute("update job set demo = demo")
    _bikes_of_jobs_that_are_there()


def _people_and_bikes() -> None:
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("phone", sa.String(40), nullable=False),
        sa.Column("email", sa.String(120), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_person"),
    )
    op.create_table(
        "bike",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("frame_number", sa.String(40), nullable=False),
        sa.Column("fleet", sa.String(40), nullable=False),
        sa.Column("archived", sa.Boolean(), nullable=False),
        sa.Column("due_stamp", sa.String(80), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name="fk_bike_person_id_person", ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name="pk_bike"),
    )
    op.create_index("ix_bike_person_id", "bike", ["person_id"])
    op.create_index("ix_bike_frame_number", "bike", ["frame_number"])
    op.create_index("ix_bike_fleet", "bike", ["fleet"])
    op.create_index("ix_bike_due_stamp", "bike", ["due_stamp"])
    op.create_table(
        "bike_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("bike_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("words", sa.String(200), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
        sa.Column("after", sa.JSON(), nullable=False),
        sa.Column("undoes", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["bike_id"], ["bike.id"], name="fk_bike_change_bike_id_bike", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_bike_change"),
        sa.UniqueConstraint("bike_id", "version", name="uq_bike_change_bike_id"),
    )
    # not by a batch: that drops the table, and what hangs on it goes with it
    op.execute("alter table job add column bike_id integer constraint fk_job_bike_id_bike references bike (id)")
    op.create_index("ix_job_bike_id", "job", ["bike_id"])


def _rows_of_the_board() -> None:
    op.create_table(
        "board_row",
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("stamp", sa.String(80), nullable=False),
        sa.Column("state", sa.String(20), nullable=False),
        sa.Column("promised_on", sa.String(10), nullable=False),
        sa.Column("mechanic", sa.String(40), nullable=False),
        sa.Column("title", sa.String(80), nullable=False),
        sa.Column("grade", sa.Integer(), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.Column("shown", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], name="fk_board_row_job_id_job", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id", name="pk_board_row"),
    )
    op.create_index("ix_board_row_stamp", "board_row", ["stamp"])
    op.create_index("ix_board_row_state_changed_at", "board_row", ["state", "changed_at"])
    op.create_index("ix_board_row_state_title", "board_row", ["state", "title"])
    # what is set aside or ordered stands beside the job: its row of the board is then to be made anew
    for what, row in (("insert", "new"), ("update", "new"), ("delete", "old")):
        made_anew = f"update board_row set version = 0 where job_id = {row}.job_id;"  # noqa: S608
        op.execute(f"create trigger supply_board_{what} after {what} on supply begin {made_anew} end")
    op.create_table(
        "due",
        sa.Column("bike_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(60), nullable=False),
        sa.Column("rank", sa.Integer(), nullable=False),
        sa.Column("end", sa.String(5), nullable=False),
        sa.Column("about", sa.String(40), nullable=False),
        sa.Column("shown", sa.JSON(), nullable=False),
        sa.Column("left_km", sa.Float(), nullable=True),
        sa.Column("by", sa.String(10), nullable=False),
        sa.Column("order_id", sa.String(60), nullable=False),
        sa.ForeignKeyConstraint(["bike_id"], ["bike.id"], name="fk_due_bike_id_bike", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("bike_id", "key", name="pk_due"),
    )
    op.create_index("ix_due_rank", "due", ["rank"])


def _bikes_of_jobs_that_are_there() -> None:
    """Every job gets a bike of its own, by the job's name; nobody knows which of them are the same one."""
    connection = op.get_bind()
    jobs = connection.execute(
        sa.text("select id, json_extract(document, '$.title'), created_at, changed_at, "
                "json_extract(document, '$.bike.kind') from job order by id")
    ).all()  # fmt: skip
    for number, title, created_at, changed_at, kind in jobs:
        name = (title or "")[:80]
        connection.execute(
            sa.text(
                "insert into bike (id, version, document, name, frame_number, fleet, archived, due_stamp, "
                "created_at, changed_at) "
                "values (:id, 1, json_object('name', :name, 'kind', :kind), :name, '', '', 0, '', :made, :at)"
            ),
            {"id": number, "name": name, "kind": kind, "made": created_at, "at": changed_at},
        )
        connection.execute(sa.text("update job set bike_id = :id where id = :id"), {"id": number})
        connection.execute(
            sa.text(
                "insert into board_row (job_id, version, stamp, state, promised_on, mechanic, title, grade, "
                "changed_at, shown) values (:id, 0, '', 'on_the_bench', '', '', :name, 0, :at, '{}')"
            ),
            {"id": number, "name": name, "at": changed_at},
        )


def downgrade() -> None:
    raise NotImplementedError("older versions are restored from a backup")
