"""Charge: the added charge, and the valves."""
