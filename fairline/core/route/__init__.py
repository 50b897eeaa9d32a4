"""Route: the piping, its joints, drains, cuts and materials."""
