"""Pressure test: nitrogen holds."""
