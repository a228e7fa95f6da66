"""What stays in memory for as long as the server runs."""

import gc

VALUES_BETWEEN = 20_000
"""New values after which garbage is looked for. An answer about a part of 1,000 notes makes about so many."""


def keep_what_is_loaded() -> None:
    """All that lives now (code, models, templates) is no garbage, and is not looked through again; garbage is looked for
    about once an answer, not thirty times: the collector takes 1 to 2 ms of opening a part of 1,000 notes instead of 16."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(VALUES_BETWEEN, *gc.get_threshold()[1:])
