"""What every page stands on: the request, the judged job, forms, saving, live parts, moments."""
