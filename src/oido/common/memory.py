"""What stays in memory for as long as the server runs."""

import gc

VALUES_BETWEEN = 20_000
"""New values after which garbage is looked for: what several answers about a part of 1,000 notes leave behind."""


def freeze_loaded_objects() -> None:
    """Exclude all loaded objects (code, models, templates) from garbage collection, and collect every few
    answers instead of eight times in each.

    An act on all of 1,000 notes then spends 0.7 ms on it instead of 2.7.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(VALUES_BETWEEN, *gc.get_threshold()[1:])
