"""Starting the window."""

from __future__ import annotations

import gc
import sys
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from gatillo.desk.looks.theme import choose_theme
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.desktop import ID, icon
from gatillo.examples import DEMO, study_path
from gatillo.files.owners import clear_leftovers, state_folder


def make_application() -> QApplication:
    """Return the Qt application, styled; the one there is if there is one."""
    application = QApplication.instance()
    if not isinstance(application, QApplication):
        application = QApplication(sys.argv[:1])
    if application.applicationName() != "gatillo":
        application.setApplicationName("gatillo")
        application.setApplicationDisplayName("")
        application.setDesktopFileName(ID)
        application.setStyle("Fusion")
        application.setWindowIcon(QIcon(str(icon())))
    choose_theme()
    # Qt gives the interpreter away in every call; at Python's usual 5 ms a paint beside a replay
    # waits that long hundreds of times: 3 s of playing 20,000 who speak held it 0.5 s, at this 0.25 s
    sys.setswitchinterval(0.00003)
    return application


def tell_errors(window: MainWindow) -> None:
    """Show an unforeseen error in the window too; the open level stays."""

    def tell(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        sys.__excepthook__(kind, error, trace)
        if issubclass(kind, Exception):
            window.bench.notify(
                f"Something went wrong inside Gatillo ({kind.__name__}: {error}). Your level is kept as it is; "
                "save it under another name to be safe, and report what you did."
            )

    sys.excepthook = tell


def start(path: Path | None) -> int:
    """Open the window on a level, or on the start page; returns when it is closed."""
    application = make_application()
    clear_leftovers(state_folder())
    window = MainWindow(Workbench())
    tell_errors(window)
    if path is None or not window.open_path(path, study=path.parent == study_path(DEMO).parent):
        window.show_start()
    window.show()
    QTimer.singleShot(0, collect_again)
    return int(application.exec())


def collect_again() -> None:
    """After the first paint: what is there by then stays, and the collector looks for the rest from now on."""
    gc.freeze()
    gc.enable()
