"""The grid as the page lays it out: a booklet is one column until it is opened."""

from collections import defaultdict
from collections.abc import Collection
from dataclasses import dataclass

from ear.judging.means import Mean
from oido.assignments.models import BookletAssignment
from oido.gradebook.book import Book, BookColumn, Cell
from oido.people.models import User


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberedMean:
    """A mean in the grid, by its place among a row's means."""

    number: int
    mean: Mean


@dataclass(frozen=True, slots=True, kw_only=True)
class BookletHead:
    """`count`: how many columns it has. Open, they follow it."""

    booklet: BookletAssignment
    count: int
    is_open: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class MarksRow:
    """`entries` stand below the heads, one each."""

    student: User
    mean: NumberedMean
    entries: tuple[Cell | NumberedMean, ...]
    terms: tuple[NumberedMean, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class MarksGrid:
    heads: tuple[BookColumn | BookletHead, ...]
    rows: tuple[MarksRow, ...]


def grid_of(book: Book, *, opened: Collection[int]) -> MarksGrid:
    """Return the grid of a book in which these booklets, by key, are open."""
    columns_of_booklet: defaultdict[int | None, list[int]] = defaultdict(list)
    for number, column in enumerate(book.columns):
        columns_of_booklet[_booklet_of(column)].append(number)
    places = {booklet.pk: place for place, booklet in enumerate(book.booklets)}
    heads: list[BookColumn | BookletHead] = []
    sources: list[tuple[bool, int]] = []
    """For each head: is it a booklet, and which of a row's booklets or cells stands below it?"""
    for number, column in enumerate(book.columns):
        key, shown = _booklet_of(column), [number]
        if key is not None:
            within = columns_of_booklet[key]
            if number != within[0]:
                continue
            is_open = key in opened
            heads.append(BookletHead(booklet=book.booklets[places[key]], count=len(within), is_open=is_open))
            sources.append((True, places[key]))
            shown = within if is_open else []
        heads += [book.columns[at] for at in shown]
        sources += [(False, at) for at in shown]
    first_booklet = 1 + len(book.terms)
    rows = []
    for row in book.rows:
        places_of_means = [NumberedMean(number=number, mean=mean) for number, mean in enumerate(row.means)]
        rows.append(
            MarksRow(
                student=row.student,
                mean=places_of_means[0],
                entries=tuple(
                    places_of_means[first_booklet + at] if is_booklet else row.cells[at]
                    for is_booklet, at in sources
                ),
                terms=tuple(places_of_means[1:first_booklet]),
            )
        )
    return MarksGrid(heads=tuple(heads), rows=tuple(rows))


def _booklet_of(column: BookColumn) -> int | None:
    return None if column.assignment is None else column.assignment.booklet_id
