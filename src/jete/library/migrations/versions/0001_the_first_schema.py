"""The first schema."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Take the step."""
    op.create_table(
        "circuits",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("layout", sa.String(), nullable=False),
        sa.Column("line", sa.JSON(), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_circuits")),
        sa.UniqueConstraint("name", "layout", name=op.f("uq_circuits_name")),
    )
    op.create_table(
        "known_columns",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("names", sa.String(), nullable=False),
        sa.Column("document", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_known_columns")),
        sa.UniqueConstraint("names", name=op.f("uq_known_columns_names")),
    )
    op.create_table(
        "people",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_people")),
        sa.UniqueConstraint("name", name=op.f("uq_people_name")),
    )
    op.create_table(
        "recordings",
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("source_digest", sa.String(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("repairs", sa.JSON(), nullable=False),
        sa.Column("damaged", sa.String(), nullable=True),
        sa.PrimaryKeyConstraint("digest", name=op.f("pk_recordings")),
        sa.UniqueConstraint("source_digest", name=op.f("uq_recordings_source_digest")),
    )
    op.create_table(
        "vehicles",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("mass_kg", sa.Double(), nullable=True),
        sa.Column("gears", sa.Integer(), nullable=True),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_vehicles")),
        sa.UniqueConstraint("name", name=op.f("uq_vehicles_name")),
    )
    op.create_table(
        "events",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("circuit_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("date", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["circuit_id"], ["circuits.id"], name=op.f("fk_events_circuit_id_circuits")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_events")),
        sa.UniqueConstraint("circuit_id", "name", "date", name=op.f("uq_events_circuit_id")),
    )
    with op.batch_alter_table("events", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_events_circuit_id"), ["circuit_id"], unique=False)

    op.create_table(
        "runs",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("recording_digest", sa.String(), nullable=False),
        sa.Column("event_id", sa.Integer(), nullable=True),
        sa.Column("driver_id", sa.Integer(), nullable=True),
        sa.Column("coach_id", sa.Integer(), nullable=True),
        sa.Column("vehicle_id", sa.Integer(), nullable=True),
        sa.Column("time", sa.String(), nullable=False),
        sa.Column("group", sa.String(), nullable=False),
        sa.Column("condition", sa.String(), nullable=False),
        sa.Column("air_c", sa.Double(), nullable=True),
        sa.Column("track_c", sa.Double(), nullable=True),
        sa.Column("wind", sa.String(), nullable=False),
        sa.Column("tyres", sa.String(), nullable=False),
        sa.Column("tyre_laps", sa.Integer(), nullable=True),
        sa.Column("cold_bar", sa.String(), nullable=False),
        sa.Column("hot_bar", sa.String(), nullable=False),
        sa.Column("fuel_l", sa.Double(), nullable=True),
        sa.Column("brake_bias", sa.Double(), nullable=True),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("imported_at", sa.DateTime(), nullable=False),
        sa.Column("removed_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["coach_id"], ["people.id"], name=op.f("fk_runs_coach_id_people")),
        sa.ForeignKeyConstraint(["driver_id"], ["people.id"], name=op.f("fk_runs_driver_id_people")),
        sa.ForeignKeyConstraint(["event_id"], ["events.id"], name=op.f("fk_runs_event_id_events")),
        sa.ForeignKeyConstraint(
            ["recording_digest"], ["recordings.digest"], name=op.f("fk_runs_recording_digest_recordings")
        ),
        sa.ForeignKeyConstraint(["vehicle_id"], ["vehicles.id"], name=op.f("fk_runs_vehicle_id_vehicles")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_runs")),
    )
    with op.batch_alter_table("runs", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_runs_driver_id"), ["driver_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_runs_event_id"), ["event_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_runs_recording_digest"), ["recording_digest"], unique=False)
        batch_op.create_index(batch_op.f("ix_runs_vehicle_id"), ["vehicle_id"], unique=False)

    op.create_table(
        "laps",
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("start_s", sa.Double(), nullable=False),
        sa.Column("end_s", sa.Double(), nullable=False),
        sa.Column("length_m", sa.Double(), nullable=False),
        sa.Column("complete", sa.Boolean(), nullable=False),
        sa.Column("why", sa.String(), nullable=True),
        sa.Column("first_s", sa.Double(), nullable=True),
        sa.Column("second_s", sa.Double(), nullable=True),
        sa.Column("third_s", sa.Double(), nullable=True),
        sa.Column("aside", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("star", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name=op.f("fk_laps_run_id_runs")),
        sa.PrimaryKeyConstraint("run_id", "position", name=op.f("pk_laps")),
    )
    op.create_table(
        "pins",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("circuit", sa.String(), nullable=False),
        sa.Column("layout", sa.String(), nullable=False),
        sa.Column("group", sa.String(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("lap", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name=op.f("fk_pins_run_id_runs")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pins")),
        sa.UniqueConstraint("circuit", "layout", "group", name=op.f("uq_pins_circuit")),
    )
    op.create_table(
        "setup_changes",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name=op.f("fk_setup_changes_run_id_runs")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_setup_changes")),
    )
    with op.batch_alter_table("setup_changes", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_setup_changes_run_id"), ["run_id"], unique=False)
