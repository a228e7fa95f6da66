"""Files that spreadsheets open."""

BOM = "\ufeff"
"""So that spreadsheets read the file as UTF-8."""
RISKY = ("=", "+", "-", "@", "\t", "\r")
"""A cell that begins so is a formula to a spreadsheet: it gets an apostrophe ahead."""


def plain_cell(text: str) -> str:
    """Text that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(RISKY) else text
