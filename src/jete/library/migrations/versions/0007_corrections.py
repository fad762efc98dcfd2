"""A shelf keeps what notes said before they were corrected."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Take the step."""
    op.create_table(
        "corrections",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("lap", sa.Integer(), nullable=True),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("field", "before", "after")),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name="fk_corrections_run_id_runs"),
        sa.PrimaryKeyConstraint("id", name="pk_corrections"),
    )
    op.create_index("ix_corrections_run_id", "corrections", ["run_id"])
