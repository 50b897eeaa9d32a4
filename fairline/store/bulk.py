"""Many small values at once: a day's readings are 86 400 rows of five or six."""

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def many_values() -> Iterator[None]:
    """Without a look for garbage while they are made: they hold no cycles, and it takes as long."""
    looked = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if looked:
            gc.enable()
