"""Drawings to scale, as SVG: the line, the plate's scale, the run, the charts."""
