"""Every address answers whatever is sent to it: never with a failure of the server."""

import copy
import json
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from html.parser import HTMLParser
from random import Random
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client, TestCase
from django.urls import URLPattern, URLResolver, get_resolver
from django.utils import timezone

from ear.formats.events import events_from_take
from ear.formats.musicxml import write_compressed, write_musicxml
from ear.formats.smf_writing import write_part
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.players.robot import Habits, play
from oido.assignments.models import Assignment
from oido.bench.services import open_draft
from oido.bench.tools import BY_SLUG
from oido.exercises.bundle import write_bundle
from oido.exercises.services import store_upload
from oido.jobs.services import ask_for
from oido.marking import remarking
from oido.marking.models import Phrase
from oido.rubrics.services import make_rubric
from oido.takes.copies import open_copy
from tests.ear.parts import beat, two_hands
from tests.oido import factories

ODD = (
    "", " ", "0", "-1", "²", "١", "1e400", "1" * 400, "nan", "inf", "-0", "true", "null", "\x00", "\ud800", "😀" * 50,
    "a" * 5000, "9999-12-31", "0001-01-01", "10000-01-01", "2026-02-30", "2026-11-28T25:00", "[]", "{}", "[" * 3000,
    '{"a":' * 500, "../../etc/passwd", "%00", "t0", "t999999", "k0", "b0", "1,2", "1-0", "<script>", "C4", "drums",
    "00000000-0000-0000-0000-000000000000", "2147483648", "9" * 20, "0.5", "-9999999", "\u202e", "1 2 3", "|||",
)  # fmt: skip
"""Values that break servers: digits that are none, numbers past every type, half characters, the ends of time,
nesting without end."""
ODD_FILES = (
    b"", b"\x00", b"MThd", b"MThd\x00\x00\x00\x06\x00\x01\x00\x01\x01\xe0MTrk\x00\x00\xff\xff", b"PK\x03\x04" + b"\x00" * 60,
    b"PK\x05\x06" + b"\xff" * 18, b"<?xml version='1.0'?><score-partwise/>", b"<a>" * 2000, b"\xff\xfe<\x00", b"{}" * 10,
    b"<score-partwise><part id='a'/></score-partwise>",
)  # fmt: skip
ODD_JSON: tuple[Any, ...] = (
    None, True, [], {}, "", "²", "\ud800", -1, 10**400, 1e308, [[[[[]]]]], {"a": {"b": [1]}}, "9999-12-31T23:59:59Z",
    "0001-01-01T00:00:00Z", "10000-01-01", ["x"] * 50, 2**63, 0.5,
)  # fmt: skip
ODD_BODIES = (
    b"",
    b"{",
    b"null",
    b"[]",
    b'"\\ud800"',
    b"\xff\xfe",
    b"[" * 100_000,
    b'{"a":' * 50_000,
    b"1e999",
    b"NaN",
)
BROKEN_A_FORMAT = 12
VALUES_A_FIELD = 2
"""Of the odd values, for each field of each form: which ones, chance decides, the same way each time."""
ODD_KEYS = ("0", "²", "9" * 30, "-1", "%00", "x" * 500, "00000000-0000-0000-0000-000000000000", "-" * 36)
KEYS_A_ROUTE, ADDRESSES_A_ROUTE = 3, 2
NOT_HERE = (403, 404)
"""Of no use to ask there once more: the address leads to nothing of this person's."""


class Forms(HTMLParser):
    """The forms of a page: how and where they are sent, and the fields with what they hold."""

    def __init__(self) -> None:
        super().__init__()
        self.forms: list[tuple[str, str, dict[str, str]]] = []
        self.is_inside = False

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        a = dict(attrs)
        if tag == "form":
            method = "post" if "hx-post" in a or a.get("method") == "post" else "get"
            self.forms.append((method, a.get("action") or a.get("hx-post") or a.get("hx-get") or "", {}))
            self.is_inside = True
        elif tag in ("input", "textarea", "select", "button") and self.is_inside and a.get("name"):
            if (
                a.get("type") in ("checkbox", "radio")
                and "checked" not in a
                and a["name"] in self.forms[-1][2]
            ):
                return
            self.forms[-1][2][str(a["name"])] = a.get("value") or "1"

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self.is_inside = False


def patterns(resolver: URLResolver | None = None, before: str = "") -> Iterator[tuple[str, URLPattern]]:
    """Routes, one for each of the words that a group of words allows."""
    for one in (resolver or get_resolver()).url_patterns:
        if isinstance(one, URLResolver):
            yield from patterns(one, before + str(one.pattern))
            continue
        route = before + str(one.pattern)
        words = re.search(r"\(\?P<\w+>([^()\[\]]+\|[^()\[\]]+)\)", route)
        for word in words[1].split("|") if words else [""]:
            yield route.replace(words[0], word) if words else route, one


class Asking(TestCase):
    """A school whose addresses are asked odd things."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        numbers: set[int] = {school_class.pk, cls.student.pk}
        cls.exercises: list[int] = []
        takes: list[str] = []
        for part in (two_hands(bars=4), beat(bars=4)):
            exercise = factories.exercise(cls.teacher, part)
            given = factories.assignment(exercise, school_class)
            factories.allow(given, passes=3, allows_corrected_copies=True, questions=("Why?",))
            taken = factories.take(cls.student, given, habits=Habits(spread_ms=20, wrong_keys=0.1))
            open_copy(cls.student, taken)
            handed = factories.handed_in(cls.student, given)
            cls.exercises.append(exercise.pk)
            kind = part.kind
            rubric = make_rubric(cls.teacher, name="Own", kind=kind.value, says=DEFAULT_RUBRICS[kind])
            job = remarking.begin(cls.teacher, given, rubric.current, with_released=True)
            open_draft(cls.teacher, exercise)
            upload = store_upload(cls.teacher, "a.mid", write_part(part))
            broken = store_upload(cls.teacher, "b.mid", b"MThd")
            phrase = Phrase.objects.create(school=cls.teacher.school, owner=cls.teacher, text="{name}")
            numbers |= {exercise.pk, given.pk, rubric.pk, job.pk, upload.pk, broken.pk, phrase.pk}
            takes += [str(taken.pk), str(handed.pk)]
        cls.numbers, cls.takes = sorted(numbers), takes
        cls.job = str(ask_for("test", owner=cls.teacher).pk)
        cls.part = exercise.part_id
        cls.given = given

    def setUp(self) -> None:
        self.random = Random(20261128)
        self.failed: list[str] = []
        self.asked = 0

    def tearDown(self) -> None:
        self.assertGreater(self.asked, 100)

    def clients(self) -> Iterator[Client]:
        for user in (self.teacher, self.student):
            client = Client(raise_request_exception=False)
            client.force_login(user)
            yield client

    def ask(self, client: Client, method: str, path: str, *args: Any, **more: Any) -> Any:
        """Sent, noted if the server fails, and undone."""
        self.asked += 1
        try:
            with transaction.atomic():
                answer = getattr(client, method)(path, *args, **more)
                transaction.set_rollback(True)
        except UnicodeEncodeError:
            # No browser can send it this way.
            return None
        if answer.status_code >= 500:
            self.failed.append(
                f"{answer.status_code} {method} {path[:120]} {repr(args)[:200]} {repr(more)[:80]}"
            )
        return answer

    def answers(self, client: Client, names: Sequence[str] = ()) -> Iterator[tuple[str, Any]]:
        """Addresses that lead somewhere, two for each pattern and tool, with the answer to an odd value of each name."""
        for route, _pattern in patterns():
            counts: Counter[str] = Counter()
            for slug, path in dict.fromkeys(self.paths(route)):
                if counts[slug] == ADDRESSES_A_ROUTE:
                    continue
                answer = self.ask(client, "get", path, dict.fromkeys(names, self.random.choice(ODD)))
                if answer is not None and answer.status_code not in NOT_HERE:
                    counts[slug] += 1
                    yield path, answer

    def paths(self, route: str) -> Iterator[tuple[str, str]]:
        """A pattern's addresses, with keys of things that there are, and the tool in each."""
        slugs = [*BY_SLUG, "timing", "t0", "k1", "keyboard", "nonsense"] if "slug" in route else [""]
        slugs = ["wav", "nonsense"] if "str:" in route else slugs
        has_key = "uuid" in route or "0-9a-f" in route
        # Numbers within a take are none of those here, whichever is tried.
        numbers = self.numbers[:1] if has_key else self.numbers
        for key in [*self.takes, self.job] if has_key else [""]:
            for number in numbers if "int:" in route or "\\d+" in route else [0]:
                # Tools are worked where there is something to be worked on.
                for slug in slugs if number in (0, *self.exercises) else slugs[:1]:
                    path = re.sub(r"<uuid:\w+>|\(\?P<pk>\[0-9a-f\][^)]*\)", key, route)
                    path = re.sub(r"<int:\w+>|\(\?P<\w+>\\d\+\)", str(number), path)
                    path = re.sub(r"<(slug|str):\w+>", slug, path)
                    path = re.sub(r"\(\?P<\w+>(\w+)[^)]*\)", r"\1", path)
                    yield slug, "/" + path.replace("^", "").replace("$", "").replace("\\", "")


class FormsTest(Asking):
    """Apart from the rest, so that another process can run it."""

    def test_forms_take_any_value(self) -> None:
        for client in self.clients():
            seen: set[tuple[str, ...]] = set()
            for path, page in self.answers(client):
                if page.status_code != 200 or "html" not in page.get("Content-Type", ""):
                    continue
                parser = Forms()
                parser.feed(page.content.decode())
                for method, action, fields in parser.forms:
                    sort = (method, re.sub(r"[0-9a-f-]{36}|\d+", "", action or path), *sorted(fields))
                    if sort in seen or "sign-out" in action:
                        continue
                    seen.add(sort)
                    self.fill_in(client, method, action or path, fields)
        self.assertEqual(self.failed, [])

    def fill_in(self, client: Client, method: str, action: str, fields: dict[str, str]) -> None:
        htmx = {"headers": {"HX-Request": "true"}}
        self.ask(client, method, action, fields)
        self.ask(client, method, action, {}, **htmx)
        for name in fields:
            for value in self.random.sample(ODD, VALUES_A_FIELD):
                self.ask(client, method, action, {**fields, name: value}, **htmx)


class EndpointsTest(Asking):
    def test_addresses_take_any_question(self) -> None:
        names = ("of", "verdict", "rows", "state", "assignment", "class", "late", "from", "pass", "seed", "habits", "key",
                 "first", "last", "next", "take", "a", "b", "bar", "beat", "width", "bars", "step", "low", "high", "tempo")  # fmt: skip
        for client in self.clients():
            for path, _answer in self.answers(client, names):
                odd = {n: self.random.choice(ODD) for n in names}
                self.ask(client, "get", path, odd, headers={"HX-Request": "true"})
                self.ask(client, "post", path, {n: self.random.choice(ODD) for n in names})
        self.assertEqual(self.failed, [])

    def test_odd_parts_of_an_address_are_refused(self) -> None:
        for client in self.clients():
            for route, _pattern in patterns():
                for value in self.random.sample(ODD_KEYS, KEYS_A_ROUTE) if "<" in route else ():
                    path = re.sub(r"<\w+:\w+>|\(\?P<\w+>[^)]*\)", value, route)
                    self.ask(client, "get", "/" + path.replace("^", "").replace("$", "").replace("\\", ""))
        self.assertEqual(self.failed, [])

    def test_recordings_take_any_body(self) -> None:
        played = play(beat(bars=4), Habits(), seed=1)
        events = [list(event) for event in events_from_take(played)][:20]
        now = timezone.now().isoformat()
        bodies: dict[str, dict[str, Any]] = {
            f"/stand/{self.given.pk}/takes/": {
                "id": "8c0a8b5e-8d55-4a83-a1f7-0c2f2b2a4d12", "part": self.part, "source": "midi", "device": "x",
                "latency_ms": 0, "recorded_at": now, "events": events, "pads": {"75": 38}, "tempo_bpm": 90,
                "heard_click": True,
            },
            f"/takes/{self.takes[-2]}/passes/": {
                "id": "8c0a8b5e-8d55-4a83-a1f7-0c2f2b2a4d13", "way": "over", "from_ms": 0, "until_ms": 5000, "pitches": [],
                "source": "midi", "device": "", "latency_ms": 0, "recorded_at": now, "events": events,
            },
            f"/stand/{self.given.pk}/loops/": {
                "rung": None, "first_bar": 1, "last_bar": 2, "hand": "", "lanes": [], "bpm": 90, "fifths": 0,
                "latency_ms": 0, "source": "midi", "events": events,
            },
            f"/stand/{self.given.pk}/own-pace/": {
                "rung": None, "first_bar": 1, "last_bar": 2, "hand": "", "lanes": [], "fifths": 0, "source": "midi",
                "events": events,
            },
            "/stand/latency/": {"taps": [0, 500, 1000, 1500], "beats": [0, 500, 1000, 1500]},
        }  # fmt: skip
        client = list(self.clients())[1]

        def send(path: str, body: Any) -> None:
            text = body if isinstance(body, bytes) else json.dumps(body).encode()
            self.ask(client, "post", path, text, content_type="application/json")

        for path, body in bodies.items():
            for odd in ODD_BODIES:
                send(path, odd)
            for name in body:
                for odd in ODD_JSON:
                    send(path, {**body, name: odd})
            for odd in ODD_JSON:
                for place in range(4):
                    broken = copy.deepcopy(body)
                    if "events" in broken:
                        broken["events"][3][place] = odd
                        send(path, broken)
        self.assertEqual(self.failed, [])

    def broken_files(self) -> Iterator[bytes]:
        """Files that are right but for a few bytes, or cut short."""
        exercise = self.given.exercise
        part = exercise.part.read()
        for whole in (
            write_part(part),
            write_compressed(write_musicxml(part)),
            write_bundle(exercise),
            write_musicxml(part),
        ):
            for _ in range(BROKEN_A_FORMAT):
                data = bytearray(whole)
                for _ in range(self.random.randint(1, 6)):
                    data[self.random.randrange(len(data))] = self.random.randrange(256)
                yield bytes(data[: self.random.choice((len(data), self.random.randrange(len(data))))])

    def test_uploads_take_any_file(self) -> None:
        teacher, student = self.clients()
        given = Assignment.objects.first()
        for data in self.broken_files():
            self.ask(teacher, "post", "/exercises/new/", {"file": SimpleUploadedFile("a.zip", data)})
            self.ask(
                student, "post", f"/stand/{given.pk}/elsewhere/", {"file": SimpleUploadedFile("a.mid", data)}
            )
        for data in ODD_FILES:
            for name in ("a.mid", "a.mxl", "a.zip", "²\ud7ff.xml", "a" * 300):
                for client, path in (
                    (teacher, "/exercises/new/"),
                    (student, f"/stand/{given.pk}/elsewhere/"),
                ):
                    for field in ("file", "upload"):
                        self.ask(client, "post", path, {field: SimpleUploadedFile(name, data)})
        self.assertEqual(self.failed, [])
