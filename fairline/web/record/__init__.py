"""The record of a job as an outline, for its page and its PDF."""

NONE = "–"  # where a value is not there
