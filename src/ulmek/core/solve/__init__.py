"""Linear backends, assembly, the condensed path and its increments."""
