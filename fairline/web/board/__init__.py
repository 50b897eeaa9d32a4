"""The board: every job with its line; a job begun, copied, put away, deleted."""
