"""what was called a ring is called a rotor; findings of parts have the names of their checks"""

import json

import sqlalchemy as sa
from alembic import op

from clavis.formats.upgrade import job_from_2_to_3, path_from_2_to_3

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    connection = op.get_bind()
    for job_id, document in connection.execute(sa.text("SELECT id, document FROM job")).all():
        upgraded = json.dumps(job_from_2_to_3(json.loads(document)))
        connection.execute(sa.text("UPDATE job SET document = :d WHERE id = :i"), {"d": upgraded, "i": job_id})
    for path in connection.execute(sa.text("SELECT DISTINCT path FROM change")).scalars().all():
        named = path_from_2_to_3(path)
        if named != path:
            connection.execute(sa.text("UPDATE change SET path = :n WHERE path = :p"), {"n": named, "p": path})


def downgrade() -> None:
    raise NotImplementedError("a program of before does not know these names; restore the copy made before")
