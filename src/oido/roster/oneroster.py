"""Archives of CSV files of the OneRoster standard, 1.1 and 1.2, as a school's office exports them."""

import csv
import io
from collections.abc import Iterator, Mapping
from dataclasses import replace

from ear.errors import FormatError
from ear.formats import safe_zip
from oido.roster.lists import (
    HEAD,
    MAX_ROWS,
    STUDENT,
    TEACHER,
    LeftOut,
    ListedPerson,
    PeopleList,
    Wrong,
    decode,
    merge_lines,
    read_person,
)

USERS, ROLES, CLASSES, ENROLLMENTS = "users.csv", "roles.csv", "classes.csv", "enrollments.csv"
MAX_OPENED_BYTES = 2_000_000
"""Of each file: 5,000 people, or 30,000 enrollments."""
MAX_CSV_ROWS = 30_000
ROLE_BY_TERM: Mapping[str, str] = {
    "student": STUDENT,
    **dict.fromkeys(("teacher", "aide", "proctor"), TEACHER),
    **dict.fromkeys(("administrator", "principal", "districtadministrator", "siteadministrator"), HEAD),
    **dict.fromkeys(("systemadministrator", "counselor", "guardian", "parent", "relative"), ""),
}
"""The standard's roles; empty for those that have none here."""
AUTHORITY = (HEAD, TEACHER, STUDENT)
"""Of several roles the first of these counts."""
Row = dict[str, str]


def read_archive(data: bytes) -> PeopleList:
    """Read who is active, in which role and in which classes. Raise FormatError.

    The role is that of roles.csv, or else of users.csv (as in 1.1), or else of enrollments.csv. Somebody of whom none of
    them gives a role is an error; somebody who is inactive, or whose role has no place here, is left out by name.
    """
    with safe_zip.opened(data) as archive:
        names = {name.rsplit("/", 1)[-1].lower(): name for name in archive.namelist()}
        if USERS not in names:
            raise FormatError(expected=f"an archive with {USERS}", actual="none")
        files = {
            name: list(_rows(decode(safe_zip.entry(archive, names[name], most=MAX_OPENED_BYTES)), name))
            for name in (USERS, ROLES, CLASSES, ENROLLMENTS)
            if name in names
        }
    titles = {
        row.get("sourcedId", ""): row.get("title", "") for _, row in files.get(CLASSES, []) if _is_active(row)
    }
    classes: dict[str, list[str]] = {}
    roles = {ROLES: dict[str, set[str]](), ENROLLMENTS: dict[str, set[str]]()}
    wrong: list[Wrong] = []
    for file in (ROLES, ENROLLMENTS):
        for _, row in files.get(file, []):
            if _is_active(row) and row.get("role"):
                roles[file].setdefault(row.get("userSourcedId", ""), set()).add(row["role"].lower())
    for line, row in files.get(ENROLLMENTS, []):
        title = titles.get(row.get("classSourcedId", ""))
        if title and _is_active(row):
            classes.setdefault(row.get("userSourcedId", ""), []).append(title)
        elif not title:
            values = {"class": row.get("classSourcedId", "")[:60]}
            wrong.append(Wrong(line=line, code="unknown_class", values=values, file=ENROLLMENTS))
    people: list[ListedPerson] = []
    left_out: list[LeftOut] = []
    for line, row in files[USERS]:
        key = row.get("sourcedId", "")
        terms = roles[ROLES].get(key) or _terms(row.get("role", "")) or roles[ENROLLMENTS].get(key, set())
        read = _read_user(line, row, terms)
        if isinstance(read, Wrong):
            wrong.append(replace(read, file=USERS))
        elif isinstance(read, LeftOut):
            left_out.append(read)
        else:
            people.append(replace(read, class_names=tuple(dict.fromkeys(classes.get(key, ())))))
    merged = merge_lines(people, wrong, ())
    return replace(merged, left_out=tuple(left_out), is_archive=True)


def _terms(role: str) -> set[str]:
    return {role.lower()} if role else set()


def _read_user(line: int, row: Row, terms: set[str]) -> ListedPerson | Wrong | LeftOut:
    name = f"{row.get('givenName', '')} {row.get('familyName', '')}".strip()
    if not _is_active(row):
        return LeftOut(line=line, name=name, code="deleted")
    if row.get("enabledUser", "true").lower() == "false":
        return LeftOut(line=line, name=name, code="disabled")
    unknown = terms - set(ROLE_BY_TERM)
    if unknown:
        return Wrong(line=line, code="unknown_role", values={"role": min(unknown)[:40]})
    if not terms:
        return Wrong(line=line, code="no_role", values={"name": name[:60]})
    known = {ROLE_BY_TERM[term] for term in terms}
    role = next((role for role in AUTHORITY if role in known), "")
    if not role:
        return LeftOut(line=line, name=name, code="other_role")
    cells = {
        "first": row.get("givenName", ""), "last": row.get("familyName", ""), "username": row.get("username", ""),
        "email": row.get("email", ""), "source_id": row.get("sourcedId", ""), "role": role,
    }  # fmt: skip
    return read_person(line, cells)


def _is_active(row: Row) -> bool:
    return row.get("status", "").lower() in ("", "active")


def _rows(text: str, file: str) -> Iterator[tuple[int, Row]]:
    """Yield the lines of a file with their numbers, with the columns that are read. Raise FormatError."""
    reader = csv.reader(io.StringIO(text))
    try:
        head = [cell.strip() for cell in next(reader, [])]
        if "sourcedId" not in head:
            raise FormatError(expected=f"a {file} with a column sourcedId", actual="none")
        columns = [(number, name) for number, name in enumerate(head) if name in READ_COLUMNS]
        most = MAX_ROWS if file == USERS else MAX_CSV_ROWS
        for count, cells in enumerate(reader, 1):
            if count > most:
                raise FormatError(expected=f"at most {most:,} lines in {file}", actual="more")
            yield (
                reader.line_num,
                {name: cells[number].strip() for number, name in columns if number < len(cells)},
            )
    except csv.Error as problem:
        raise FormatError(expected=f"{file} as CSV", actual=f"line {reader.line_num}: {problem}") from problem


READ_COLUMNS = frozenset(
    {
        "sourcedId", "status", "enabledUser", "username", "givenName", "familyName", "email", "role", "title",
        "userSourcedId", "classSourcedId",
    }
)  # fmt: skip
