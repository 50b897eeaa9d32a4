"""The plan of the days: of one job, of several for the company's people, by person to print."""
