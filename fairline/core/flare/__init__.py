"""Flare: every joint made and recorded."""
