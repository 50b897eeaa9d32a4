"""The bench: simulated instruments on a job."""
