"""Drawing an SVG in a process of its own, with little time and memory: a small file can ask for hours of drawing.

Run as `python -m gatillo.desk.looks.svg_drawing SIDE`, it reads an SVG from standard input and writes a PNG to standard
output. It exits with 1 where there is nothing to draw.
"""

from __future__ import annotations

import math
import os
import resource
import subprocess
import sys
import time

SECONDS = 2
"""Of processor time that a drawing may take, once its process has loaded what it needs."""
MEMORY = 2 << 30
"""Bytes that the process may ask for, its libraries among them."""
WAIT = 30
"""Seconds after which the process is ended, on a machine that is busy with other work."""


def drawn_apart(raw: bytes, side: int) -> bytes:
    """Return an SVG drawn as a PNG, `side` pixels on its longer side, by a process of its own.

    Raises ValueError with the end of a sentence where it cannot be drawn, or not within the bounds.
    """
    asked = [sys.executable, "-m", __name__, str(side)]
    try:
        done = subprocess.run(
            asked,
            input=raw,
            capture_output=True,
            timeout=WAIT,
            check=False,
            env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        )
    except subprocess.TimeoutExpired:
        raise ValueError("takes too long to draw; make it simpler") from None
    if done.returncode < 0:
        raise ValueError("takes too long or too much memory to draw; make it simpler")
    if done.returncode or not done.stdout:
        raise ValueError("is not an SVG drawing")
    return done.stdout


def _main() -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
    from PySide6.QtGui import QGuiApplication, QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    side = int(sys.argv[1])
    application = QGuiApplication(sys.argv[:1])
    used = math.ceil(time.process_time())
    resource.setrlimit(resource.RLIMIT_CPU, (used + SECONDS, used + SECONDS))
    renderer = QSvgRenderer(QByteArray(sys.stdin.buffer.read()))
    size = renderer.defaultSize().scaled(QSize(side, side), Qt.AspectRatioMode.KeepAspectRatio)
    if not renderer.isValid() or size.isEmpty():
        return 1
    image = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    out = QByteArray()
    buffer = QBuffer(out)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    sys.stdout.buffer.write(out.data())
    sys.stdout.buffer.flush()
    del application
    return 0


if __name__ == "__main__":
    sys.exit(_main())
