"""Python's cyclic garbage, collected while nobody works: in a large level it takes up to 0.2 s."""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

from gatillo.desk.session.workbench import Workbench

QUIET = 2_000
"""Milliseconds without an edit or a move of the cursor after which it is collected."""
THRESHOLDS = (2_000, 10, 100)
"""For `gc.set_threshold`: a full collection comes by itself only after about 2 million new objects."""


class IdleCollector(QObject):
    """Runs a full collection after a pause in the work, and freezes what is left, so that the next one is short.

    When another level is opened what was frozen is looked at again: most of it belonged to the level before.
    """

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.bench = bench
        self._timer = QTimer(self, interval=QUIET, singleShot=True)
        self._timer.timeout.connect(self.collect)
        for signal in (bench.levelChanged, bench.cursorMoved, bench.runChanged):
            signal.connect(self._timer.start)
        bench.document.replaced.connect(gc.unfreeze)
        gc.set_threshold(*THRESHOLDS)
        self._timer.start()

    def collect(self) -> None:
        """Collect now, unless something runs or is played: then after the next pause."""
        if self.bench.player.running or self.bench.player.playing:
            self._timer.start()
            return
        gc.collect()
        gc.freeze()

    def close(self) -> None:
        """Stop; nothing stays frozen."""
        self._timer.stop()
        gc.unfreeze()
