"""The computations of the job, one file a name of the calculation door. SI in and out."""
