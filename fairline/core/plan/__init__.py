"""The day: tasks of a job with their times, their order, who does them, and the shortest plan."""
