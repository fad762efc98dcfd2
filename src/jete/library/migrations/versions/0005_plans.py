"""A shelf keeps plans for next runs, and what came of them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Take the step."""
    op.create_table(
        "next_plans",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("answers", sa.JSON(), nullable=False),
        sa.Column("judged_by", sa.JSON(), nullable=True),
        sa.Column("review", sa.JSON(), nullable=True),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name="fk_next_plans_run_id_runs"),
        sa.PrimaryKeyConstraint("id", name="pk_next_plans"),
    )
    op.create_index("ix_next_plans_run_id", "next_plans", ["run_id"])
