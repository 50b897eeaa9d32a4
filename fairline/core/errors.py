"""The root of every error that Fair Line raises of its own."""


class FairLineError(Exception):
    """Something that cannot be done, said in a sentence for whoever asked for it."""
