"""Tests run without a screen and keep nothing of the user's."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["GATILLO_STATE"] = tempfile.mkdtemp(prefix="gatillo-tests-")
sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent / "catalogue")]
