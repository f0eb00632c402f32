"""a ring is its readings, a pair of pads two"""

import json

import sqlalchemy as sa
from alembic import op

from clavis.formats.upgrade import job_from_1_to_2

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    connection = op.get_bind()
    for job_id, document in connection.execute(sa.text("SELECT id, document FROM job")).all():
        upgraded = json.dumps(job_from_1_to_2(json.loads(document)))
        connection.execute(sa.text("UPDATE job SET document = :d WHERE id = :i"), {"d": upgraded, "i": job_id})


def downgrade() -> None:
    raise NotImplementedError("the readings of a ring do not fit into the older form; restore the copy made before")
