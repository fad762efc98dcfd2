"""A circuit keeps its road and what people know of it; a shelf, the passes of its corners and what is noted on them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Take the step."""
    with op.batch_alter_table("circuits") as circuits:
        circuits.add_column(sa.Column("road", sa.JSON(), nullable=True))
        circuits.add_column(sa.Column("book", sa.JSON(), nullable=True))
    op.create_table(
        "passes",
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("lap", sa.Integer(), nullable=False),
        sa.Column("corner", sa.Integer(), nullable=False),
        sa.Column("made_by", sa.String(), nullable=False),
        sa.Column("numbers", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name="fk_passes_run_id_runs"),
        sa.PrimaryKeyConstraint("run_id", "lap", "corner", name="pk_passes"),
    )
    op.create_table(
        "pass_notes",
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("lap", sa.Integer(), nullable=False),
        sa.Column("corner", sa.Integer(), nullable=False),
        sa.Column("tag", sa.String(), nullable=False, server_default=""),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name="fk_pass_notes_run_id_runs"),
        sa.PrimaryKeyConstraint("run_id", "lap", "corner", name="pk_pass_notes"),
    )
    op.create_table(
        "guide_fields",
        sa.Column("circuit_id", sa.Integer(), nullable=False),
        sa.Column("corner", sa.Integer(), nullable=False),
        sa.Column("field", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["circuit_id"], ["circuits.id"], name="fk_guide_fields_circuit_id_circuits"),
        sa.PrimaryKeyConstraint("circuit_id", "corner", "field", name="pk_guide_fields"),
    )
    op.create_table(
        "rehearsals",
        sa.Column("circuit_id", sa.Integer(), nullable=False),
        sa.Column("driver", sa.String(), nullable=False, server_default=""),
        sa.Column("corner", sa.Integer(), nullable=False),
        sa.Column("easiness", sa.Double(), nullable=False),
        sa.Column("interval_days", sa.Integer(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("due_day", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["circuit_id"], ["circuits.id"], name="fk_rehearsals_circuit_id_circuits"),
        sa.PrimaryKeyConstraint("circuit_id", "driver", "corner", name="pk_rehearsals"),
    )
    op.create_table(
        "corner_notes",
        sa.Column("circuit_id", sa.Integer(), nullable=False),
        sa.Column("corner", sa.Integer(), nullable=False),
        sa.Column("driver", sa.String(), nullable=False, server_default=""),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.ForeignKeyConstraint(["circuit_id"], ["circuits.id"], name="fk_corner_notes_circuit_id_circuits"),
        sa.PrimaryKeyConstraint("circuit_id", "corner", "driver", name="pk_corner_notes"),
    )
