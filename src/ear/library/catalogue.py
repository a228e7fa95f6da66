"""All pieces of the library, by grade."""

from ear.errors import UnknownName
from ear.library import drums_early, drums_later, keyboard_early, keyboard_later
from ear.library.piece import LibraryPiece

LIBRARY: tuple[LibraryPiece, ...] = (
    *keyboard_early.FIRST_GRADE, *drums_early.FIRST_GRADE,
    *keyboard_early.SECOND_GRADE, *drums_early.SECOND_GRADE,
    *keyboard_later.THIRD_GRADE, *drums_later.THIRD_GRADE,
    *keyboard_later.FOURTH_GRADE, *drums_later.FOURTH_GRADE,
    *keyboard_later.FIFTH_GRADE, *drums_later.FIFTH_GRADE,
)  # fmt: skip
"""From the first grade to the fifth, keyboard before drums."""
_BY_NAME = {piece.name: piece for piece in LIBRARY}


def library_piece(name: str) -> LibraryPiece:
    """Return a piece by its name. Raises UnknownName."""
    if name not in _BY_NAME:
        raise UnknownName(kind="piece", name=name, known=tuple(_BY_NAME)[:4])
    return _BY_NAME[name]
