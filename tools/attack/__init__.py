"""An attack on the running product: what a careless world would do to it, bounded and repeatable.

``python -m tools.attack`` prints what was tried, what failed and what was lost. Nothing may.
"""
