"""The tables of the library, one class each."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, BigInteger, ForeignKey, MetaData, UniqueConstraint, false
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

NAMES = {
    "ix": "ix_%(table_name)s_%(column_0_name)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


class Base(DeclarativeBase):
    """All tables; constraints have names, so that later migrations can name them."""

    metadata = MetaData(naming_convention=NAMES)


class Circuit(Base):
    """A circuit in one layout, and its start line on the plane of its origin.

    ``founder_run`` and ``founder_lap`` name the lap that it is known by, and whose axis its
    ``corners`` lie on; ``settled`` says that a person has looked at them.  ``road`` is its
    axis and mean path, ``book`` what people know of it: landmarks, hazards, rules, sectors.
    """

    __tablename__ = "circuits"
    __table_args__ = (UniqueConstraint("name", "layout"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    layout: Mapped[str] = mapped_column(default="")
    line: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    founder_run: Mapped[int | None]
    founder_lap: Mapped[int | None]
    corners: Mapped[list[Any] | None] = mapped_column(JSON)
    settled: Mapped[bool] = mapped_column(default=False, server_default=false())
    road: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    book: Mapped[dict[str, Any] | None] = mapped_column(JSON)


class Event(Base):
    """A day at a circuit."""

    __tablename__ = "events"
    __table_args__ = (UniqueConstraint("circuit_id", "name", "date"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    circuit_id: Mapped[int] = mapped_column(ForeignKey("circuits.id"), index=True)
    name: Mapped[str] = mapped_column(default="")
    date: Mapped[str] = mapped_column(default="")
    circuit: Mapped[Circuit] = relationship()


class Person(Base):
    """A driver, rider or coach."""

    __tablename__ = "people"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)


class Vehicle(Base):
    """A car or a motorcycle."""

    __tablename__ = "vehicles"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    kind: Mapped[str] = mapped_column(default="")
    mass_kg: Mapped[float | None]
    gears: Mapped[int | None]


class Recording(Base):
    """Channel data: ``digest`` names its file, ``source_digest`` is of the log it came from."""

    __tablename__ = "recordings"
    digest: Mapped[str] = mapped_column(primary_key=True)
    source_digest: Mapped[str] = mapped_column(unique=True)
    source: Mapped[str]
    path: Mapped[str] = mapped_column(default="")
    repairs: Mapped[list[Any]] = mapped_column(JSON, default=list)
    damaged: Mapped[str | None]


class Run(Base):
    """One run: a recording with what is noted about it.

    ``device`` is what its logger is known by; ``placed`` whether its path is that of its
    circuit, None where nobody has looked.
    """

    __tablename__ = "runs"
    id: Mapped[int] = mapped_column(primary_key=True)
    recording_digest: Mapped[str] = mapped_column(ForeignKey("recordings.digest"), index=True)
    event_id: Mapped[int | None] = mapped_column(ForeignKey("events.id"), index=True)
    driver_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"), index=True)
    coach_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"))
    vehicle_id: Mapped[int | None] = mapped_column(ForeignKey("vehicles.id"), index=True)
    time: Mapped[str] = mapped_column(default="")
    group: Mapped[str] = mapped_column(default="")
    condition: Mapped[str] = mapped_column(default="")
    air_c: Mapped[float | None]
    track_c: Mapped[float | None]
    wind: Mapped[str] = mapped_column(default="")
    tyres: Mapped[str] = mapped_column(default="")
    tyre_laps: Mapped[int | None]
    cold_bar: Mapped[str] = mapped_column(default="")
    hot_bar: Mapped[str] = mapped_column(default="")
    fuel_l: Mapped[float | None]
    brake_bias: Mapped[float | None]
    note: Mapped[str] = mapped_column(default="")
    device: Mapped[str] = mapped_column(default="", server_default="")
    placed: Mapped[bool | None]
    imported_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]
    recording: Mapped[Recording] = relationship()
    event: Mapped[Event | None] = relationship()
    driver: Mapped[Person | None] = relationship(foreign_keys=[driver_id])
    coach: Mapped[Person | None] = relationship(foreign_keys=[coach_id])
    vehicle: Mapped[Vehicle | None] = relationship()
    changes: Mapped[list[SetupChange]] = relationship(order_by="SetupChange.id", cascade="all, delete-orphan")


# What a sheet says that stands in the run's own row, under the same names.
NOTED = (
    "time",
    "group",
    "condition",
    "air_c",
    "track_c",
    "wind",
    "tyres",
    "tyre_laps",
    "cold_bar",
    "hot_bar",
    "fuel_l",
    "brake_bias",
    "note",
)


class SetupChange(Base):
    """A dated change of the set-up before a run."""

    __tablename__ = "setup_changes"
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), index=True)
    made_at: Mapped[datetime]
    text: Mapped[str]


class Correction(Base):
    """What a field of a run, or of one of its laps, said before it was corrected."""

    __tablename__ = "corrections"
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), index=True)
    lap: Mapped[int | None]
    field: Mapped[str]
    before: Mapped[str]
    after: Mapped[str]
    made_at: Mapped[datetime]


class Lap(Base):
    """One lap of a run, with its times over the thirds of its length where it is complete."""

    __tablename__ = "laps"
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    position: Mapped[int] = mapped_column(primary_key=True)
    number: Mapped[int]
    start_s: Mapped[float]
    end_s: Mapped[float]
    length_m: Mapped[float]
    complete: Mapped[bool]
    why: Mapped[str | None]
    first_s: Mapped[float | None]
    second_s: Mapped[float | None]
    third_s: Mapped[float | None]
    aside: Mapped[str] = mapped_column(default="")
    reason: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")
    star: Mapped[bool] = mapped_column(default=False)


class Pin(Base):
    """The lap that is always held against, by circuit, layout and class."""

    __tablename__ = "pins"
    __table_args__ = (UniqueConstraint("circuit", "layout", "group"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    circuit: Mapped[str]
    layout: Mapped[str]
    group: Mapped[str]
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"))
    lap: Mapped[int]


class KnownColumns(Base):
    """What a person said the columns of a kind of file are."""

    __tablename__ = "known_columns"
    id: Mapped[int] = mapped_column(primary_key=True)
    names: Mapped[str] = mapped_column(unique=True)
    document: Mapped[str]


class Pass(Base):
    """One pass of one corner (by its id) as numbers; ``made_by`` names the method and the circuit that made it."""

    __tablename__ = "passes"
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    lap: Mapped[int] = mapped_column(primary_key=True)
    corner: Mapped[int] = mapped_column(primary_key=True)
    made_by: Mapped[str]
    numbers: Mapped[str]


class PassNote(Base):
    """What is noted on one pass of a corner: a tag that passes can be split by, and words."""

    __tablename__ = "pass_notes"
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    lap: Mapped[int] = mapped_column(primary_key=True)
    corner: Mapped[int] = mapped_column(primary_key=True)
    tag: Mapped[str] = mapped_column(default="", server_default="")
    note: Mapped[str] = mapped_column(default="", server_default="")


class CornerNote(Base):
    """What stays noted on a corner of a circuit, for one driver or (empty) for all."""

    __tablename__ = "corner_notes"
    circuit_id: Mapped[int] = mapped_column(ForeignKey("circuits.id"), primary_key=True)
    corner: Mapped[int] = mapped_column(primary_key=True)
    driver: Mapped[str] = mapped_column(primary_key=True, default="", server_default="")
    note: Mapped[str] = mapped_column(default="", server_default="")


class GuideField(Base):
    """What a person wrote into a field of a circuit's lap guide, and ``over`` what was measured when it was written."""

    __tablename__ = "guide_fields"
    circuit_id: Mapped[int] = mapped_column(ForeignKey("circuits.id"), primary_key=True)
    corner: Mapped[int] = mapped_column(primary_key=True)
    field: Mapped[str] = mapped_column(primary_key=True)
    text: Mapped[str]
    made_at: Mapped[datetime]
    over: Mapped[str] = mapped_column(default="", server_default="")


class GuideVersion(Base):
    """A lap guide as it was at one time: whose, of which lap, for which class and condition; the document of its cards."""

    __tablename__ = "guide_versions"
    id: Mapped[int] = mapped_column(primary_key=True)
    circuit_id: Mapped[int] = mapped_column(ForeignKey("circuits.id"), index=True)
    group: Mapped[str] = mapped_column(default="", server_default="")
    condition: Mapped[str] = mapped_column(default="", server_default="")
    author: Mapped[str] = mapped_column(default="", server_default="")
    made_at: Mapped[datetime]
    run_id: Mapped[int | None]
    document: Mapped[dict[str, Any]] = mapped_column(JSON)


class CardPhoto(Base):
    """A picture on a card of a circuit's lap guide, small enough for the library."""

    __tablename__ = "card_photos"
    id: Mapped[int] = mapped_column(primary_key=True)
    circuit_id: Mapped[int] = mapped_column(ForeignKey("circuits.id"), index=True)
    corner: Mapped[int]
    caption: Mapped[str] = mapped_column(default="", server_default="")
    made_at: Mapped[datetime]
    jpeg: Mapped[bytes]


class Film(Base):
    """The film of a run: where its file is, what it was when it was tied, and up to two places in both clocks, seconds."""

    __tablename__ = "films"
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    path: Mapped[str]
    size: Mapped[int] = mapped_column(BigInteger)
    duration_s: Mapped[float]
    frame_s: Mapped[float]
    ties: Mapped[list[Any]] = mapped_column(JSON, default=list)


class Rehearsed(Base):
    """How well a person knows a corner of a circuit, by rehearsing it: the memory of :mod:`jete.core.walk.rehearse`."""

    __tablename__ = "rehearsals"
    circuit_id: Mapped[int] = mapped_column(ForeignKey("circuits.id"), primary_key=True)
    driver: Mapped[str] = mapped_column(primary_key=True, default="", server_default="")
    corner: Mapped[int] = mapped_column(primary_key=True)
    easiness: Mapped[float]
    interval_days: Mapped[int]
    row: Mapped[int]
    due_day: Mapped[int]


class NextPlan(Base):
    """A plan for a next run (``jete.plan/1``), made on one run; what people say of it, and what came of it.

    ``answers`` tell by an aim's number whether it was tried; ``judged_by`` are the runs that a person said it is to be
    judged by, None where it finds them itself; ``review`` is what came of it (``jete.review/1``), as it was told last.
    """

    __tablename__ = "next_plans"
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id"), index=True)
    made_at: Mapped[datetime]
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    answers: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    judged_by: Mapped[list[Any] | None] = mapped_column(JSON)
    review: Mapped[dict[str, Any] | None] = mapped_column(JSON)


class Target(Base):
    """A time to reach on a circuit, for a driver, a class and a condition; empty text holds for all of them."""

    __tablename__ = "targets"
    __table_args__ = (UniqueConstraint("circuit", "layout", "driver", "group", "condition", "name"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    circuit: Mapped[str]
    layout: Mapped[str] = mapped_column(default="", server_default="")
    driver: Mapped[str] = mapped_column(default="", server_default="")
    group: Mapped[str] = mapped_column(default="", server_default="")
    condition: Mapped[str] = mapped_column(default="", server_default="")
    name: Mapped[str] = mapped_column(default="", server_default="")
    time_s: Mapped[float]
    made_at: Mapped[datetime]
