"""Survey: is the job right before the first hole?"""
