"""Lists of people as spreadsheets and school offices write them: read into plain rows, with the line of whatever is wrong.

Text with any separator in any encoding that a spreadsheet writes, pasted or as a file. `oneroster.py` reads the archives of
school offices.
"""

import csv
import io
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from charset_normalizer import from_bytes

from ear.errors import FormatError
from ear.formats.characters import has_control_characters
from ear.text import term

MAX_ROWS = 5000
MAX_CELLS = 60
"""In a line. A spreadsheet with more columns is no list of people."""
MAX_LINES = 20_000
"""With empty ones."""
SAMPLE_BYTES = 60_000
"""Enough to tell an encoding by."""
MAX_NAME_LENGTH = 150
SEPARATORS = "\t;,|"
STUDENT, TEACHER, HEAD = "student", "teacher", "head"

COLUMNS: Mapping[str, tuple[str, ...]] = {
    "first": ("first name", "firstname", "first", "given name", "givenname", "forename", "vorname", "prénom", "nombre", "nome"),
    "last": ("last name", "lastname", "last", "family name", "familyname", "surname", "nachname", "nom", "apellidos", "cognome"),
    "name": ("name", "full name", "student", "pupil", "schüler", "élève", "alumno"),
    "username": ("username", "user name", "sign-in name", "login", "user", "benutzername", "identifiant", "usuario"),
    "email": ("email", "e-mail", "mail", "e-mail address", "email address", "courriel", "correo"),
    "role": ("role", "rolle", "rôle", "rol"),
    "class_name": ("class", "classes", "group", "klasse", "classe", "clase", "grupo"),
    "source_id": ("id", "sourcedid", "number", "student id", "pupil id", "nummer", "numéro"),
}  # fmt: skip
"""How lists head their columns. Others are passed over, and told."""
ROLE_WORDS: Mapping[str, str] = {
    **dict.fromkeys(("student", "pupil", "learner", "schüler", "schülerin", "élève", "alumno", "alumna", ""), STUDENT),
    **dict.fromkeys(("teacher", "lehrer", "lehrerin", "professeur", "profesor", "profesora", "aide"), TEACHER),
    **dict.fromkeys(("head", "principal", "administrator", "districtadministrator", "siteadministrator", "schoolleitung"), HEAD),
}  # fmt: skip
EMAIL = re.compile(r"[^@\s]+@[^@\s]+\.[^@\s]+")


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedPerson:
    """One person of a list. Empty where the list says nothing."""

    line: int
    """Of the file, counted from 1; of the first mention."""
    first: str
    last: str
    username: str = ""
    email: str = ""
    role: str = STUDENT
    class_names: tuple[str, ...] = ()
    source_id: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wrong:
    """What cannot be taken, and why: a code of `oido.roster.problem_texts`."""

    line: int
    code: str
    values: Mapping[str, str] = field(default_factory=dict)
    file: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LeftOut:
    """Somebody on the list who is not offered for import, and why: a code of `oido.roster.problem_texts`."""

    line: int
    name: str
    code: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PeopleList:
    people: tuple[ListedPerson, ...]
    wrong: tuple[Wrong, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    is_archive: bool = False
    """It says itself who is in which class."""
    passed_over: tuple[str, ...] = ()
    """Headings of columns that mean nothing here."""


def decode(data: bytes) -> str:
    """Return the text of a file in any encoding: by its byte order mark, as UTF-8, or by a guess."""
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, errors="replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        # Spreadsheets on the desk write Windows' or the Macintosh's; a guess among these is better than among all.
        sample = data[:SAMPLE_BYTES]
        likely = from_bytes(sample, cp_isolation=["cp1252", "mac_roman", "cp1250", "utf_16_le", "utf_16_be"])
        best = likely.best()
        if best is None:
            return data.decode("cp1252", errors="replace")
        # Of those in which it looks as orderly, the one that most schools have.
        as_orderly = [one for one in likely if one.chaos <= best.chaos]
        chosen = next((match for match in as_orderly if match.encoding == "cp1252"), best)
        return data.decode(chosen.encoding, errors="replace")


def read_text(text: str) -> PeopleList:
    """Return the rows of a pasted or written list.

    Without headings each line is a name: “First Last” or “Last, First”.
    """
    if "\x00" in text:
        raise FormatError(expected=term("a list of people as text"), actual="something else")
    rows = _rows(text)
    if not rows:
        return PeopleList(people=())
    head = [_heading(cell) for cell in rows[0][1]]
    if not any(head):
        return _of_names(rows)
    passed = tuple(cell for cell, known in zip(rows[0][1], head, strict=True) if cell and not known)
    people: list[ListedPerson] = []
    wrong: list[Wrong] = []
    for line, cells in rows[1:]:
        row = {name: cell for name, cell in zip(head, cells, strict=False) if name}
        person = read_person(line, row)
        if isinstance(person, Wrong):
            wrong.append(person)
        else:
            people.append(person)
    return merge_lines(people, wrong, passed)


def _rows(text: str) -> list[tuple[int, list[str]]]:
    """Lines with their cells, and the number of each; empty ones left out."""
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    separator = _separator(text)
    lines: Iterable[tuple[int, list[str]]]
    if separator:
        lines = _split_lines(text, separator)
    else:
        lines = ((number, [line]) for number, line in enumerate(text.split("\n"), 1))
    rows: list[tuple[int, list[str]]] = []
    for number, cells in lines:
        if number > MAX_LINES or len(rows) > MAX_ROWS + 1:
            raise FormatError(expected=f"a list of at most {MAX_ROWS:,} people", actual="more")
        if len(cells) > MAX_CELLS:
            raise FormatError(expected=f"at most {MAX_CELLS} columns", actual=f"{len(cells):,}")
        cleaned = [" ".join(cell.split()) for cell in cells]
        if any(cleaned):
            rows.append((number, cleaned))
    if len(rows) > MAX_ROWS + 1:
        raise FormatError(expected=f"a list of at most {MAX_ROWS:,} people", actual=f"{len(rows):,}")
    return rows


def _split_lines(text: str, separator: str) -> Iterator[tuple[int, list[str]]]:
    reader = csv.reader(io.StringIO(text), delimiter=separator)
    before = 0
    try:
        for cells in reader:
            yield before + 1, cells
            before = reader.line_num
    except csv.Error as problem:
        raise FormatError(
            expected=term("a list of people as text"), actual=f"line {before + 1}: {problem}"
        ) from problem


def _separator(text: str) -> str:
    """The sign that most evenly divides the first lines; a comma only where there are headings, since
    “Last, First” has one, too."""
    lines = [line for line in text.split("\n") if line.strip()][:20]
    if not lines:
        return ""
    for sign in SEPARATORS:
        counts = {line.count(sign) for line in lines}
        if min(counts) > 0 and (sign != "," or any(map(_heading, lines[0].split(",")))):
            return sign
    headed = [sign for sign in SEPARATORS if any(map(_heading, lines[0].split(sign))) and sign in lines[0]]
    return headed[0] if headed else ""


def _heading(cell: str) -> str:
    plain = " ".join(cell.strip().strip('"').lower().replace("_", " ").split())
    return next((name for name, words in COLUMNS.items() if plain in words), "")


def _of_names(rows: Sequence[tuple[int, list[str]]]) -> PeopleList:
    people: list[ListedPerson] = []
    wrong: list[Wrong] = []
    for line, cells in rows:
        row = {"name": cells[0]} if len(cells) == 1 else {"first": cells[0], "last": cells[1]}
        if len(cells) > 2 and EMAIL.fullmatch(cells[2]):
            row["email"] = cells[2]
        person = read_person(line, row)
        if isinstance(person, Wrong):
            wrong.append(person)
        else:
            people.append(person)
    return merge_lines(people, wrong, ())


def split_name(name: str) -> tuple[str, str]:
    """Return the first and the last name: of “Ada Marie Keel” as of “Keel, Ada Marie”."""
    if "," in name:
        last, _, first = name.partition(",")
        return first.strip(), last.strip()
    first, _, last = name.rpartition(" ")
    return (first, last) if first else (last, "")


def read_person(line: int, row: Mapping[str, str]) -> ListedPerson | Wrong:
    first, last = row.get("first", ""), row.get("last", "")
    if not first and not last:
        first, last = split_name(row.get("name", ""))
    if not first and not last:
        return Wrong(line=line, code="no_name")
    if max(len(first), len(last)) > MAX_NAME_LENGTH or len(row.get("username", "")) > MAX_NAME_LENGTH:
        return Wrong(line=line, code="name_too_long")
    if any(has_control_characters(cell) for cell in row.values()):
        return Wrong(line=line, code="control_character")
    email = row.get("email", "")
    if email and not EMAIL.fullmatch(email):
        return Wrong(line=line, code="bad_email", values={"email": email[:60]})
    word = row.get("role", "").strip().lower()
    if word not in ROLE_WORDS:
        return Wrong(line=line, code="unknown_role", values={"role": word[:40]})
    classes = tuple(name for name in re.split(r"\s*[;/]\s*", row.get("class_name", "")) if name)
    return ListedPerson(
        line=line, first=first, last=last, username=row.get("username", "").lower(), email=email,
        role=ROLE_WORDS[word], class_names=classes, source_id=row.get("source_id", "")[:255],
    )  # fmt: skip


def merge_lines(
    people: Iterable[ListedPerson], wrong: Iterable[Wrong], passed: tuple[str, ...]
) -> PeopleList:
    """Return one entry per person, merging lines of several classes that share an id or a sign-in name.

    A shared name alone does not merge.
    """
    merged: dict[str, ListedPerson] = {}
    for number, listed in enumerate(people):
        key = (
            (listed.source_id and f"id {listed.source_id}")
            or (listed.username and f"name {listed.username}")
            or f"row {number}"
        )
        before = merged.get(key)
        if before is None:
            merged[key] = listed
        else:
            new_classes = tuple(name for name in listed.class_names if name not in before.class_names)
            merged[key] = replace(before, class_names=before.class_names + new_classes)
    return PeopleList(people=tuple(merged.values()), wrong=tuple(wrong), passed_over=passed)
