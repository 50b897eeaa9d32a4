"""Evacuate: the pull and its decay."""
