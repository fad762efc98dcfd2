"""A shelf keeps times to reach."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

NAMES = ("circuit", "layout", "driver", "group", "condition", "name")


def upgrade() -> None:
    """Take the step."""
    op.create_table(
        "targets",
        sa.Column("id", sa.Integer(), nullable=False),
        *(
            sa.Column(name, sa.String(), nullable=False, server_default=None if name == "circuit" else "")
            for name in NAMES
        ),
        sa.Column("time_s", sa.Double(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_targets"),
        sa.UniqueConstraint(*NAMES, name="uq_targets_circuit"),
    )
