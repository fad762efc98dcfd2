"""A circuit keeps the lap it is known by and the list of its corners; a run, what logged it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Take the step."""
    with op.batch_alter_table("circuits") as circuits:
        circuits.add_column(sa.Column("founder_run", sa.Integer(), nullable=True))
        circuits.add_column(sa.Column("founder_lap", sa.Integer(), nullable=True))
        circuits.add_column(sa.Column("corners", sa.JSON(), nullable=True))
        circuits.add_column(sa.Column("settled", sa.Boolean(), nullable=False, server_default=sa.false()))
    with op.batch_alter_table("runs") as runs:
        runs.add_column(sa.Column("device", sa.String(), nullable=False, server_default=""))
        runs.add_column(sa.Column("placed", sa.Boolean(), nullable=True))
