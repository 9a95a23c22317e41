"""Pictures: results in, plot items out. Each is drawn once, for the window and the report alike."""

import pyqtgraph

pyqtgraph.setConfigOptions(antialias=True)
