"""The run at hand, and the ports that it was open to."""
