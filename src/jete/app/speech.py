"""Says short things aloud where the system can; elsewhere everything works without a voice."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject

if TYPE_CHECKING:
    from PyQt6.QtTextToSpeech import QTextToSpeech

# Always there, says nothing: for tests.
SILENT = "mock"


class Speech(QObject):
    """A voice that is sought when it is first wanted; a new sentence cuts the last one short."""

    def __init__(self, engine: str = "") -> None:
        super().__init__()
        self._engine = engine
        self._voice: QTextToSpeech | None = None

    def ready(self) -> bool:
        """Whether there is a voice."""
        if self._voice is None:
            self._voice = self._found()
        return self._voice is not None

    def _found(self) -> QTextToSpeech | None:
        try:
            from PyQt6.QtTextToSpeech import QTextToSpeech
        except ImportError:
            return None
        engines = [self._engine] if self._engine else [e for e in QTextToSpeech.availableEngines() if e != SILENT]
        for engine in engines:
            voice = QTextToSpeech(engine, self)
            if voice.state() != QTextToSpeech.State.Error:
                return voice
        return None

    def say(self, text: str) -> bool:
        """Say something; False where there is no voice."""
        if not self.ready() or self._voice is None:
            return False
        self._voice.stop()
        self._voice.say(text)
        return True
