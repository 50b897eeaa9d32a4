"""What is done by hand in a fixed order: lists of steps, ticked where the work is done."""
