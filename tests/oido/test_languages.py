"""Every reader in their own language: who decides, what is said in it, and how figures and names are written."""

import re
from datetime import datetime
from html.parser import HTMLParser
from unittest import mock

from django.test import TestCase
from django.utils.formats import date_format
from django.utils.translation import get_language, override

from ear.numerals import decimal, signed
from ear.text import gettext_noop
from oido.access.services import write_reset
from oido.common.languages import OFFERED
from oido.common.readers import PAGES
from oido.help.guides import read_guides
from oido.help.pages import STAFF_PAGES, STUDENT_PAGES
from oido.help.views import ABOUT
from oido.jobs.kinds import KINDS, JobKind, MadeFile, Progress
from oido.jobs.services import ask_for
from oido.people.conventions import conventions_of
from oido.people.models import User
from oido.post.models import Email
from oido.roster import joining
from tests.ear.parts import beat
from tests.oido import factories
from tests.oido import test_permissions as permissions
from tests.oido.pseudo import CLOSE, CODE, OPEN, SPANISH, pseudo_language

NAMES_OF_DATA = re.compile(
    r"Exercise \d+|Week by week|Shared|Concert|Autumn|Well done|Play it|Test keys|MusicXML|Oido|Name\d+|Tester|(?:head|teacher|student)\d+|Class \d+|Test school|Another school|Untitled"
)
FIGURE_IN_ATTRIBUTE = re.compile(r"^[+-]?\d+,\d+$")
SAID = ("alt", "title", "aria-label", "placeholder")
MAIN_PAGES = (
    "home", "exercises", "exercise", "bench", "stand", "take", "marking", "gradebook", "rubric", "assignment", "classes",
    "naming", "help", "ready-made", "booklets", "progress", "scale", "hand-in",
)  # fmt: skip


def _made_in_its_language(progress: Progress) -> MadeFile:
    return MadeFile(data=(get_language() or "").encode(), name="language", content_type="text/plain")


class ChoiceTest(TestCase):
    def setUp(self) -> None:
        self.head, self.teacher = factories.head(), factories.teacher()
        self.school = self.head.school

    def language_of(self, person: User | None, browser: str = "") -> str:
        self.client.logout()
        if person is not None:
            self.client.force_login(person)
        page = self.client.get("/account/" if person else "/sign-in/", headers={"accept-language": browser})
        language = page.headers["Content-Language"]
        self.assertIn(f'<html lang="{language}"', page.content.decode())
        return language

    def set_up(self, *, school: str, own: str = "") -> None:
        type(self.school).objects.update(language=school)
        User.objects.filter(pk=self.teacher.pk).update(language=own)

    def test_a_person_decides_before_the_school_before_the_browser(self) -> None:
        for school, own, browser, expected in (
            ("en-gb", "", "es", "en-gb"), ("es", "", "en-US", "es"), ("es", "en-us", "es", "en-us"), ("en-gb", "es", "en", "es"),
        ):  # fmt: skip
            with self.subTest(school=school, own=own, browser=browser):
                self.set_up(school=school, own=own)
                self.assertEqual(self.language_of(self.teacher, browser), expected)

    def test_outside_the_browser_decides(self) -> None:
        for browser, expected in (
            ("es-MX", "es"),
            ("en-US,en", "en-us"),
            ("en", "en-gb"),
            ("fr", "en-gb"),
            ("", "en-gb"),
        ):
            with self.subTest(browser):
                self.assertEqual(self.language_of(None, browser), expected)

    def test_a_choice_is_made_on_a_page(self) -> None:
        self.client.force_login(self.teacher)
        self.client.post(
            "/naming/", {"own": "1", "own-language": "es", "own-note_names": "", "own-middle_c_octave": ""}
        )
        self.assertContains(self.client.get("/naming/"), "Idioma y nombres")
        self.client.post("/naming/", {"own": "1", "own-language": "xx"})
        self.teacher.refresh_from_db()
        self.assertEqual(self.teacher.language, "es")

    def test_notes_are_named_as_is_usual_in_a_language_unless_somebody_chose(self) -> None:
        def names(person: User) -> str:
            fresh = User.objects.get(pk=person.pk)
            with override(fresh.reads):
                return conventions_of(fresh).pitch(61, fifths=0)

        self.set_up(school="en-gb", own="es")
        self.assertEqual((names(self.teacher), names(self.head)), ("do♯4", "C♯4"))
        self.client.force_login(self.head)
        self.client.post("/school/", {"name": "Escuela", "language": "es", "time_zone": "Europe/Madrid"})
        self.assertEqual((names(self.teacher), names(self.head)), ("do♯4", "do♯4"))
        type(self.school).objects.update(note_names="letters")
        self.assertEqual(names(self.head), "C♯4")
        User.objects.filter(pk=self.teacher.pk).update(language="en-us", note_names="")
        self.assertEqual(names(self.teacher), "C♯4")
        with override("en-us"):
            american = conventions_of(User.objects.get(pk=self.teacher.pk))
        self.assertTrue(american.is_american)

    def test_letters_are_written_in_the_language_of_who_gets_them(self) -> None:
        self.set_up(school="en-gb", own="es")
        User.objects.filter(pk=self.teacher.pk).update(email="teacher@school.example")
        write_reset("teacher@school.example")
        self.assertEqual(Email.everywhere.get().subject, "Una contraseña nueva para Oido")
        self.set_up(school="es")
        with self.school.within(), override("en-gb"):
            joining.invite(User.objects.get(pk=self.head.pk), email="new@school.example", role="teacher")
            self.assertIn("te invita", Email.objects.latest("pk").body)

    def test_a_job_speaks_the_language_of_who_asked_for_it(self) -> None:
        self.set_up(school="en-gb", own="es")
        kind = JobKind(name="test.language", run=_made_in_its_language, tries=1, max_s=10.0)
        with mock.patch.dict(KINDS, {kind.name: kind}):
            job = ask_for(kind.name, owner=User.objects.get(pk=self.teacher.pk))
            factories.work_all()
        job.refresh_from_db()
        self.assertEqual(bytes(job.file).decode(), "es")


class LanesTest(TestCase):
    def test_lanes_are_named_in_the_language_and_told_apart_by_what_is_stored(self) -> None:
        """Scripts and addresses send a lane back: what they send must be known in every language."""
        teacher, student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[teacher], students=[student])
        given = factories.assignment(factories.exercise(teacher, beat(bars=2)), school_class)
        factories.handed_in(student, given)
        User.objects.update(language="es")
        self.client.force_login(student)
        page = self.client.get(f"/stand/{given.pk}/")
        data = page.context["stand"]
        self.assertEqual((data["lanes"][36], data["laneNames"][36]), ("kick", "bombo"))
        self.assertIn("bombo", [pad["name"] for pad in data["pads"]])
        self.assertLessEqual(set(data["voices"]), {"kick", "snare", "hat"})
        self.assertLessEqual(set(page.context["voices"]), set(data["voices"]))
        self.assertContains(page, "<span>bombo</span>")
        self.client.force_login(teacher)
        picture = self.client.get(f"/assignments/{given.pk}/?of=kick")
        self.assertContains(picture, "bombo")
        self.assertEqual(picture.context["picture"].voice, "kick")


class WordsTest(TestCase):
    def test_figures_have_the_decimal_mark_of_the_language(self) -> None:
        text = gettext_noop("{cost} points")
        for language, expected in (("en-gb", "−7.5 +0.25"), ("es", "−7,5 +0,25")):
            with override(language):
                said = PAGES.say(
                    text,
                    {"cost": f"{PAGES.write_numeral(decimal(-7.5))} {PAGES.write_numeral(signed(0.25, 2))}"},
                )
                self.assertEqual(said, f"{expected} points")
                self.assertEqual(PAGES.say(text, {"cost": decimal(-7.5)}), f"{expected.split()[0]} points")

    def test_spanish_help_quotes_what_is_on_the_page(self) -> None:
        """Where the English help quotes a label, the Spanish one quotes its translation."""
        translated = SPANISH.joinpath("django.po").read_text()
        for pages in (STAFF_PAGES, STUDENT_PAGES):
            for help_of_page in pages.values():
                for text in (text for pair in help_of_page.questions for text in pair):
                    with override("es"):
                        quoted = re.findall("«([^»]+)»", str(text))
                    self.assertEqual(len(quoted), len(re.findall("“[^”]+”", str(text))), str(text))
                    for label in quoted:
                        with self.subTest(label):
                            self.assertRegex(
                                translated, f'msgstr(\\[\\d\\])? ".*{re.escape(label.split(" …")[0])}.*"'
                            )

    def test_guides_begin_in_the_language_and_keep_their_anchors(self) -> None:
        english, spanish = read_guides("en-gb"), read_guides("es")
        self.assertEqual(set(spanish), set(ABOUT))
        for slug, guide in spanish.items():
            with self.subTest(slug):
                self.assertEqual([s.language for s in guide.sections[:2]], ["es", "es"])
                self.assertNotEqual(guide.title, english[slug].title)
                anchors = [section.anchor for section in english[slug].contents]
                self.assertEqual([section.anchor for section in guide.contents], anchors)
                self.assertEqual(guide.rest_from, anchors[1] if len(anchors) > 1 else "")

    def test_every_language_has_names_of_days_of_its_own(self) -> None:
        day = datetime(2026, 12, 2, 14, 30)
        written = {}
        for language in OFFERED:
            with override(language.code):
                written[language.code] = (date_format(day, "LONG_DATE"), date_format(day, "SHORT_DAY_TIME"))
        self.assertEqual(
            written,
            {
                "en-gb": ("Wednesday 2 December 2026", "2 Dec, 14:30"),
                "en-us": ("Wednesday, December 2, 2026", "Dec 2, 2:30 PM"),
                "es": ("miércoles 2 de diciembre de 2026", "2 dic, 14:30"),
            },
        )


class _Reading(HTMLParser):
    """Gathers what a page says, and figures in its attributes that a script could not read."""

    def __init__(self) -> None:
        super().__init__()
        self.said: list[str] = []
        self.unreadable: list[str] = []
        self._silent: list[str] = []

    def handle_starttag(self, tag: str, attributes: list[tuple[str, str | None]]) -> None:
        named = dict(attributes)
        self.said += [named[name] or "" for name in SAID if name in named]
        self.unreadable += [
            f"{name}={value}" for name, value in attributes if FIGURE_IN_ATTRIBUTE.match(value or "")
        ]
        if (
            tag in ("script", "style", "kbd", "code", "option")
            or named.get("lang", CODE) not in (CODE,)
            or (self._silent and tag == self._silent[-1])
        ):
            self._silent.append(tag)

    def handle_endtag(self, tag: str) -> None:
        if self._silent and tag == self._silent[-1]:
            self._silent.pop()

    def handle_data(self, data: str) -> None:
        if not self._silent:
            self.said.append(data)


def left_over(text: str) -> str:
    """Return what of a text is in no brackets, without names that people gave."""
    while (shorter := re.sub(f"{OPEN}[^{OPEN}{CLOSE}]*{CLOSE}", "", text)) != text:
        text = shorter
    return " ".join(DAYS.sub("", NAMES_OF_DATA.sub("", text)).split())


class PseudoTest(permissions.Scene, TestCase):
    """Pages in a language that shows what is not translated."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.fill()
        User.objects.update(language=CODE)

    def test_pages_say_nothing_that_is_not_translated(self) -> None:
        with pseudo_language():
            for name in MAIN_PAGES:
                _methods, reached_by, about = permissions.REACHES[name]
                role = next(role for role in ("teacher", "student", "head") if role in reached_by.split())
                self.client.force_login(getattr(self, role))
                page = self.client.get(self.path(name, about))
                self.assertEqual(page.status_code, 200, name)
                reading = _Reading()
                reading.feed(page.content.decode())
                with self.subTest(name):
                    rest = {left_over(text) for text in reading.said}
                    self.assertEqual({text for text in rest if re.search("[A-Za-z]{4}", text)}, set())
                    self.assertEqual(reading.unreadable, [])


DAYS = re.compile(
    r"\b(?:(?:lunes|martes|miércoles|jueves|viernes|sábado|domingo|lun|mar|mié|jue|vie|sáb|dom)\b,? )?\d+(?: de)? [a-z]{3,10}\b(?: de \d{4})?"
)
