"""Mount: where heads and outdoor unit hang and stand."""
