"""What is in the pipes: the acts of a job folded into a state, and the table of what may follow."""
