"""The shelf: equipment sheets and their versions, read and written as files."""
