"""Commission: every zone measured."""
