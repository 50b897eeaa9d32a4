"""The rules and arithmetic of the job: pure functions and frozen models, no I/O."""
