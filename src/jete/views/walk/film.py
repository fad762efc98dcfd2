"""The walk's film: its picture follows the place, and it leads the place when it is moved itself."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QSlider, QVBoxLayout, QWidget

from jete.app.actions import key_hint
from jete.app.theme import SMALL_PX, THEMES, font
from jete.report.films import film_time, gone_words, tied_words
from jete.session import operations as ops
from jete.session.state import Changed, Session
from jete.views.asked_file import ask_open
from jete.views.following import Following
from jete.views.labels import ElidedLabel, plain
from jete.views.switch import Switch

if TYPE_CHECKING:
    from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent, QPaintEvent, QResizeEvent, QWheelEvent

    from jete.app.film_decoder import FilmDecoder
    from jete.app.film_keeper import FilmKeeper
    from jete.app.player import Player
    from jete.app.store import SessionStore
    from jete.core.walk.course import Who

FILMS = "Films (*.mp4 *.mov *.mkv *.avi *.m4v *.webm *.mts *.ts *.mpg *.wmv);;All files (*)"
ENDINGS = {".mp4", ".mov", ".mkv", ".avi", ".m4v", ".webm", ".mts", ".ts", ".mpg", ".wmv"}
SLIDER_STEPS = 10_000
NOTHING_S = (float("inf"), float("-inf"))


class FilmPicture(QWidget):
    """Shows the last picture that came, as large as there is room; the wheel moves by frames."""

    turned = pyqtSignal(int)
    dropped = pyqtSignal(object)
    touched = pyqtSignal()
    resized = pyqtSignal()

    def __init__(self, store: SessionStore) -> None:
        super().__init__()
        self._store = store
        self.image: QImage | None = None
        self.words = ""
        self.setAcceptDrops(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setToolTip("Wheel: a frame on or back. Drop a film here to see it beside the data.")

    def sizeHint(self) -> QSize:  # noqa: N802 - Qt's name
        """A wide picture."""
        return QSize(480, 300)

    def show_image(self, image: QImage | None) -> None:
        """Show a picture, or none."""
        self.image = image
        self.update()

    def paintEvent(self, _: QPaintEvent | None) -> None:  # noqa: N802 - Qt's name
        """The picture, or why there is none."""
        theme, painter = THEMES[self._store.session.display.theme], QPainter(self)
        painter.fillRect(self.rect(), theme.color("raised"))
        if self.image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(self.target(self.image.size()), self.image)
        elif self.words:
            painter.setPen(theme.color("muted"))
            painter.drawText(
                self.rect().adjusted(24, 24, -24, -24),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self.words,
            )

    def target(self, size: QSize) -> QRect:
        """Where a picture of a size is shown."""
        fitted = size.scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRect((self.width() - fitted.width()) // 2, (self.height() - fitted.height()) // 2, *_wh(fitted))

    def resizeEvent(self, _: QResizeEvent | None) -> None:  # noqa: N802 - Qt's name
        """A picture of another size is wanted."""
        self.resized.emit()

    def mousePressEvent(self, _: QMouseEvent | None) -> None:  # noqa: N802 - Qt's name
        """The keys are for this film from now on."""
        self.touched.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:  # noqa: N802 - Qt's name
        """A frame on or back."""
        if event is not None and event.angleDelta().y():
            self.touched.emit()
            self.turned.emit(-1 if event.angleDelta().y() > 0 else 1)
            event.accept()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:  # noqa: N802 - Qt's name
        """Films are taken here; logs go on to the window."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and any(_is_film(u.toLocalFile()) for u in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:  # noqa: N802 - Qt's name
        """Take a film."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None:
            films = [Path(u.toLocalFile()) for u in data.urls() if _is_film(u.toLocalFile())]
            if films:
                self.dropped.emit(films[0])
                event.acceptProposedAction()


class FilmPanel(QWidget):
    """The film of one of the compared laps, and what ties it to the data."""

    touched = pyqtSignal(object)

    def __init__(self, store: SessionStore, player: Player, films: FilmKeeper, who: Who) -> None:
        super().__init__()
        self._store, self._player, self._films, self.who = store, player, films, who
        self.film_s = 0.0
        # From when to when the shown frame is seen: within it nothing new is asked for.
        self._seen_s = NOTHING_S
        self._reads: FilmDecoder | None = None
        self._copied: float | None = None
        self._sought: float | None = None
        self.picture = FilmPicture(store)
        self.title, self.status = ElidedLabel(), ElidedLabel()
        self.place, self.slider = plain(), QSlider(Qt.Orientation.Horizontal)
        self.alone = Switch("The film moves", ("With the data", "Alone"), key_hint("film:alone"))
        self.tie = QPushButton("It shows this place")
        self.choose = QPushButton("Choose a film…")
        self.seek = QPushButton("Find it by motion")
        self._build()
        player.moved.connect(self.follow)
        films.copying.connect(self._on_copying)
        films.seeking.connect(self._on_seeking)
        Following(self, store, self._on_changed)
        self._show_state()

    def _build(self) -> None:
        side = "reference" if self.who == "reference" else "lap"
        self.setObjectName(f"walk-film-{self.who}")
        self.picture.setAccessibleName(f"Film of the {side}")
        self.title.setProperty("muted", True)
        self.title.setAccessibleName(f"Whose film: the {side}")
        self.status.setFont(font(SMALL_PX))
        self.status.setAccessibleName(f"How the film of the {side} is tied")
        self.place.setFont(font(SMALL_PX))
        self.slider.setRange(0, SLIDER_STEPS)
        self.slider.setAccessibleName(f"Through the film of the {side}")
        self.slider.valueChanged.connect(self._on_slid)
        self.tie.setToolTip(key_hint("film:tie"))
        self.tie.setAccessibleName(f"The film of the {side} shows this place")
        self.tie.clicked.connect(self.tie_here)
        self.seek.setToolTip(key_hint("film:find"))
        self.seek.setAccessibleName(f"Find by motion where the film of the {side} belongs")
        self.seek.clicked.connect(self.seek_place)
        self.choose.setToolTip(key_hint("film:add"))
        self.choose.setAccessibleName(f"Choose a film for the run of the {side}")
        self.choose.clicked.connect(self.ask_for_film)
        self.alone.turned.connect(self.set_alone)
        self.picture.turned.connect(self.step)
        self.picture.dropped.connect(self._on_dropped)
        self.picture.touched.connect(self._on_touched)
        self.picture.resized.connect(self._ask_again)
        scrub, row, column = QHBoxLayout(), QHBoxLayout(), QVBoxLayout(self)
        scrub.addWidget(self.slider, 1)
        scrub.addWidget(self.place)
        for widget in (self.alone, self.tie, self.seek, self.choose):
            row.addWidget(widget)
        row.addWidget(self.status, 1)
        column.setContentsMargins(4, 0, 4, 0)
        column.setSpacing(3)
        column.addWidget(self.title)
        column.addWidget(self.picture, 1)
        column.addLayout(scrub)
        column.addLayout(row)

    # --- what is shown

    @property
    def moves_alone(self) -> bool:
        """Whether the film is moved without the data, to find a place in it."""
        film = self._films.of(self.who)
        return film is None or film.clock is None or self.alone.buttons[1].isChecked()

    def showEvent(self, _: object) -> None:  # noqa: N802 - Qt's name
        """Read only what is seen."""
        self._show_state()

    def _on_changed(self, _: Session, flags: Changed) -> None:
        if flags & (Changed.FILM | Changed.CHOICE | Changed.PAGE):
            self._show_state()
        elif Changed.DISPLAY in flags:
            self.update()

    def _show_state(self) -> None:
        """Title, status and buttons as the film is now."""
        film, run = self._films.of(self.who), self._films.run_of(self.who)
        session = self._store.session
        key = session.choice.reference if self.who == "reference" else session.choice.lap
        side = "Reference" if self.who == "reference" else "Lap"
        self.title.setText(f"{side}: {session.label(key)}" + (f" · {film.file.name}" if film is not None else ""))
        there = film is not None and film.file.exists()
        self._read(self._films.decoder(self.who) if there and self.isVisible() else None)
        self.picture.words = self._why_none(run)
        if not there:
            self.picture.show_image(None)
        self.choose.setText("Find it…" if film is not None and not there else "Choose a film…")
        self.choose.setVisible(not there)
        self.choose.setEnabled(run is not None)
        tied = film is not None and film.clock is not None
        for widget in (self.slider, self.tie, self.place):
            widget.setVisible(there)
        self.alone.setVisible(there and tied)
        self.seek.setVisible(there and not tied)
        self._show_status()
        self._seen_s = NOTHING_S
        self.follow()

    def _why_none(self, run: int | None) -> str:
        film = self._films.of(self.who)
        if run is None:
            return "The ideal lap was never driven in one go: there is no film of it."
        if film is None:
            return "No film of this run yet. Choose one, or drop it here."
        return "" if film.file.exists() else gone_words(film)

    def _show_status(self) -> None:
        film = self._films.of(self.who)
        words = tied_words(film) if film is not None and film.file.exists() else ""
        if self._copied is not None:
            words = f"making a small copy, once: {100.0 * self._copied:.0f} %"
        if self._sought is not None:
            words = f"looking how the picture turns: {100.0 * self._sought:.0f} %"
        self.status.setText(words)

    def _on_copying(self, run: int, share: float) -> None:
        if run == self._films.run_of(self.who):
            self._copied = share if share < 1.0 else None
            self._show_status()

    def _on_seeking(self, run: int, share: float) -> None:
        if run in (0, self._films.run_of(self.who)):
            self._sought = share if share < 1.0 else None
            self._show_status()

    def _read(self, decoder: FilmDecoder | None) -> None:
        if decoder is self._reads:
            return
        self._reads = decoder
        if decoder is not None:
            decoder.came.connect(self._on_came)
            decoder.failed.connect(self._films.failed)

    def follow(self) -> None:
        """Show what the film shows at the place, unless it is moved alone."""
        if not self.isVisible() or self._reads is None:
            return
        if not self.moves_alone:
            wanted = self._films.film_s(self.who)
            if wanted is not None:
                self.film_s = wanted
        self._show_place()
        if not self._seen_s[0] <= self.film_s < self._seen_s[1]:
            self._ask()

    def _ask_again(self) -> None:
        if self._reads is not None and self.isVisible():
            self._ask()

    def _ask(self, frames: int = 0) -> None:
        if self._reads is not None:
            self._reads.ask(self.film_s, self._size(), frames)

    def _size(self) -> tuple[int, int]:
        """The pixels that there is room for: no more are asked for."""
        room = self.picture.size() * self.devicePixelRatioF()
        return room.width(), room.height()

    def _on_came(self, image: QImage, film_s: float, until_s: float) -> None:
        if self.sender() is not self._reads:
            return
        self._seen_s = film_s, until_s
        if self.moves_alone:
            self.film_s = film_s
        self.picture.show_image(image)
        self._show_place()

    def _show_place(self) -> None:
        film = self._films.of(self.who)
        if film is None:
            return
        self.place.setText(f"{film_time(self.film_s)} / {film_time(film.duration_s)}")
        self.slider.blockSignals(True)
        self.slider.setValue(round(SLIDER_STEPS * self.film_s / max(film.duration_s, 1e-6)))
        self.slider.blockSignals(False)

    # --- what a hand does

    def _on_touched(self) -> None:
        self.touched.emit(self)

    def _on_dropped(self, path: Path) -> None:
        film = self._films.of(self.who)
        if film is not None and not film.file.exists():
            self._films.found(self.who, path)
        else:
            self._films.add(self.who, path)

    def ask_for_film(self) -> None:
        """Choose the film of this run, or where the one that was moved is now."""
        name = ask_open(self, "Film of this run", FILMS)
        if name:
            self._on_dropped(Path(name))

    def set_alone(self, alone: bool) -> None:  # noqa: FBT001 - the switch's two ends
        """Move the film alone, or with the data again."""
        self.alone.show_end(alone)
        self._seen_s = NOTHING_S
        self.follow()

    def tie_here(self) -> None:
        """What is seen is at the place."""
        if self._films.tie(self.who, self.film_s):
            self.set_alone(alone=False)

    def seek_place(self) -> None:
        """Seek where the film belongs, by how its picture turns."""
        self._films.find(self.who)

    def loosen(self) -> None:
        """Untie the film."""
        self._films.loosen(self.who)

    def take_off(self) -> None:
        """Take the film off its run."""
        self._films.take_off(self.who)

    def _on_slid(self, value: int) -> None:
        film = self._films.of(self.who)
        if film is not None:
            self._on_touched()
            self.go_to(film.duration_s * value / SLIDER_STEPS)

    def step(self, frames: int) -> None:
        """Some frames on or back; with the data, the place goes along."""
        film = self._films.of(self.who)
        if film is None:
            return
        if self.moves_alone:
            self._ask(frames)
        else:
            # Into the middle of the next frame, so that rounding shows no other.
            self.go_to(self._middle_s() + frames * film.frame_s)

    def nudge(self, frames: int) -> None:
        """Move the film alone by frames; a tied one against the data: from then on it shows later frames."""
        if self.moves_alone:
            self.step(frames)
        else:
            self._films.shift(self.who, frames)

    def leap(self, seconds: float) -> None:
        """Move the film by a second, alone or with the data."""
        self.go_to(self.film_s + seconds)

    def _middle_s(self) -> float:
        """The middle of the frame that is shown."""
        film = self._films.of(self.who)
        assert film is not None
        known = self._seen_s[0] <= self.film_s < self._seen_s[1]
        return self._seen_s[0] + 0.5 * film.frame_s if known else self.film_s

    def go_to(self, film_s: float) -> None:
        """To a time of the film, alone or with the data."""
        film = self._films.of(self.who)
        if film is None:
            return
        at = min(max(film_s, 0.0), film.duration_s)
        place = None if self.moves_alone else self._films.place_m(self.who, at)
        if place is not None:
            self._store.look_at(lambda s: ops.go_to(s, place))
        else:
            self.film_s = at
            self.follow()


def _is_film(name: str) -> bool:
    return Path(name).suffix.lower() in ENDINGS


def _wh(size: QSize) -> tuple[int, int]:
    return size.width(), size.height()
