"""Simulated instruments: stand-ins for the gauges on the job, with the physics behind them."""
