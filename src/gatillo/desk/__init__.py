"""The Qt window."""

# The core before Qt: once PySide6 is there, it reads the source of every module that is imported after it (for its
# `__feature__` switch), which took a tenth of the time to the first paint.
import gatillo.examples.starters
import gatillo.files.catalogue_page
import gatillo.files.graph_pictures
import gatillo.files.kits
import gatillo.files.saved_trace
import gatillo.files.unsaved
import gatillo.graphs.folding
import gatillo.inspect.findings
import gatillo.inspect.moments
import gatillo.inspect.order
import gatillo.inspect.rates
import gatillo.inspect.tracks
import gatillo.language.rule_lines
import gatillo.sim.run.resuming  # noqa: F401
