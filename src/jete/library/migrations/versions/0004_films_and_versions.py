"""A run may have a film; a circuit keeps versions of its guide and pictures on its cards."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Take the step."""
    with op.batch_alter_table("guide_fields") as fields:
        fields.add_column(sa.Column("over", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "guide_versions",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("circuit_id", sa.Integer(), nullable=False),
        sa.Column("group", sa.String(), nullable=False, server_default=""),
        sa.Column("condition", sa.String(), nullable=False, server_default=""),
        sa.Column("author", sa.String(), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=True),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["circuit_id"], ["circuits.id"], name="fk_guide_versions_circuit_id_circuits"),
        sa.PrimaryKeyConstraint("id", name="pk_guide_versions"),
    )
    op.create_index("ix_guide_versions_circuit_id", "guide_versions", ["circuit_id"])
    op.create_table(
        "card_photos",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("circuit_id", sa.Integer(), nullable=False),
        sa.Column("corner", sa.Integer(), nullable=False),
        sa.Column("caption", sa.String(), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("jpeg", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["circuit_id"], ["circuits.id"], name="fk_card_photos_circuit_id_circuits"),
        sa.PrimaryKeyConstraint("id", name="pk_card_photos"),
    )
    op.create_index("ix_card_photos_circuit_id", "card_photos", ["circuit_id"])
    op.create_table(
        "films",
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("size", sa.BigInteger(), nullable=False),
        sa.Column("duration_s", sa.Double(), nullable=False),
        sa.Column("frame_s", sa.Double(), nullable=False),
        sa.Column("ties", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name="fk_films_run_id_runs"),
        sa.PrimaryKeyConstraint("run_id", name="pk_films"),
    )
