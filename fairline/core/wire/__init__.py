"""Wire: supply, interconnect, addresses, and what is proved before hands go in."""
