"""Hand over: the record, the label, the pictures."""
