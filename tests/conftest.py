"""Tests run without a screen and keep nothing of the user's."""

from __future__ import annotations

import os
import signal
import sys
import tempfile
from pathlib import Path

from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["GATILLO_STATE"] = tempfile.mkdtemp(prefix="gatillo-tests-")
sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent / "catalogue")]

# the same examples each time, so that a change is judged by what it changes; HYPOTHESIS_PROFILE=others tries others
# no deadline: tests are not timed, and the first example warms what later ones find ready
settings.register_profile("same", derandomize=True, deadline=None)
settings.register_profile("others", deadline=None)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))


def pytest_collection_finish(session: object) -> None:
    """Writing to a process that has ended must raise, as Python has it: vcdvcd lets it end this process, when it is imported."""
    signal.signal(signal.SIGPIPE, signal.SIG_IGN)
