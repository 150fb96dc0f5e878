"""The clock of a running run: how much time has passed, and how many ticks that is."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer, QObject, Qt, QTimer, Signal

FRAME = 16
"""Milliseconds between two frames."""
LONGEST = 0.1
"""Seconds that a frame takes at most, whatever held it up: a run that stood still does not leap."""


class Clock(QObject):
    """Tells what time has passed, a frame at a time; parts of ticks are kept for the next frame."""

    passed = Signal(float)
    """Seconds since the last frame."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._timer = QTimer(self)
        # a playback that limps at 18 of every 16 ms looks it
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(FRAME)
        self._timer.timeout.connect(self._on_frame)
        self._since = QElapsedTimer()
        self._owed = 0.0

    def start(self) -> None:
        """Begin to count."""
        self._owed = 0.0
        self._since.start()
        self._timer.start()

    def stop(self) -> None:
        """Count no more."""
        self._timer.stop()

    def ticks_of(self, ticks: float) -> int:
        """Return how many whole ticks have come due with these; what is left is owed."""
        self._owed += ticks
        whole = int(self._owed)
        self._owed -= whole
        return whole

    def _on_frame(self) -> None:
        self.passed.emit(min(self._since.restart() / 1000.0, LONGEST))
