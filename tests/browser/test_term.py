"""A term's work in the browser: the library, giving and watching, kinds of exercise, booklets, the marks of a class."""

import re
from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from ear.formats.events import events_from_take
from ear.free.exercise import FreeSpec, Pitches
from ear.free.improvising import improvised
from ear.players.robot import Habits, play
from ear.practice.showing import InWords, Skill, ToShow
from oido.assignments.services import give_booklet, give_exercise
from oido.booklets.services import make_booklet
from oido.exercises.models import Exercise
from oido.gradebook.models import Entry
from oido.takes.models import Take
from tests.browser.base import BrowserTest
from tests.browser.clocks import IDEAL_CLOCK
from tests.browser.test_journey import PERFORM
from tests.ear.parts import melody
from tests.oido import factories

FOLLOWS_MS = 6_000
"""Within which a list that follows has followed."""


class TermTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.teacher = factories.teacher(first="Tess")
        self.students = [factories.student(first="Ada"), factories.student(first="Ben")]
        self.school_class = factories.school_class(teachers=[self.teacher], students=self.students)
        self.due = timezone.now() + timedelta(days=3)

    def students_page(self):
        page = self.new_page()
        page.add_init_script(IDEAL_CLOCK)
        self.sign_in(self.students[0].username, page)
        return page

    def test_the_library_is_searched_tagged_and_mended_by_keyboard(self) -> None:
        names = ("Harbour wall", "Harbour steps", "Net loft")
        for name in names:
            Exercise.objects.filter(pk=factories.exercise(self.teacher).pk).update(title=name)
        page = self.page
        self.sign_in(self.teacher.username)
        self.visit("/exercises/")
        page.get_by_label("Find").focus()
        page.keyboard.type("harbour")
        expect(page.locator(".library tbody tr, .library > tr")).to_have_count(2)
        self.assertIn("words=harbour", page.url)
        for name in names[:2]:
            page.get_by_role("checkbox", name=name).press("Space")
        page.locator("#new-tag").fill("pier")
        page.get_by_role("button", name="tag them").press("Enter")
        expect(page.locator("a.tag", has_text="pier")).to_have_count(2)
        page.get_by_role("checkbox", name=names[1]).press("Space")
        page.get_by_role("button", name="delete", exact=True).press("Enter")
        expect(page.get_by_role("link", name=names[1])).to_have_count(0)
        page.get_by_role("button", name="Undo").press("Enter")
        expect(page.get_by_role("link", name=names[1])).to_be_visible()

    def test_given_and_followed_as_students_go_on(self) -> None:
        exercise = factories.exercise(self.teacher, melody(bars=2, bpm=120.0))
        page = self.page
        self.sign_in(self.teacher.username)
        self.visit(f"/exercises/{exercise.pk}/give/")
        due = page.locator("#id_due_on")
        due.fill("")
        page.get_by_role("button", name="Give it").click()
        self.assertTrue(due.evaluate("one => one.matches(':invalid')"))
        due.fill(timezone.localdate(self.due).isoformat())
        page.get_by_role("button", name="Give it").click()
        given = exercise.assignments.get()
        self.visit(f"/assignments/{given.pk}/who/")
        expect(page.locator("#watch")).to_contain_text("0 of 2 handed in")
        student = self.students_page()
        self.visit(f"/stand/{given.pk}/", student)
        expect(page.locator("tr", has_text="Ada").locator(".step")).to_have_text("opened", timeout=FOLLOWS_MS)
        factories.handed_in(self.students[0], given)
        expect(page.locator("#watch")).to_contain_text("1 of 2 handed in", timeout=FOLLOWS_MS)
        page.get_by_role("button", name="remind Ben").press("Enter")
        expect(page.locator("tr", has_text="Ben")).to_contain_text("reminded")

    def test_improvised_over_chords_handed_in_and_read(self) -> None:
        spec = FreeSpec(bars=2, grid_ticks=240, pitches=Pitches.CHORDS, chords="Am | F", least_a_bar=2)
        exercise = factories.free_exercise(self.teacher, spec)
        given = give_exercise(self.teacher, exercise, self.school_class, due_at=self.due)
        student = self.students_page()
        self.visit(f"/stand/{given.pk}/", student)
        expect(student.locator("[data-answer]")).to_contain_text("Stand-in keys")
        expect(student.locator(".task")).to_contain_text("from the chord above the music")
        student.get_by_role("button", name="Practise", exact=True).click()
        expect(student.locator("[data-allowed-now]")).to_contain_text("C, E, A")
        expect(student.locator("[data-loop-news]")).to_contain_text("0 points")
        student.keyboard.press("Space")
        shown = exercise.part.read()
        line = improvised(spec.exercise(shown), shown, seed=3)
        student.evaluate(
            PERFORM, [list(one) for one in events_from_take(play(line, Habits(spread_ms=6), seed=3))]
        )
        student.get_by_role("button", name="Record").click()
        expect(student.locator("[data-state]")).to_have_text("Take stored.")
        student.get_by_role("link", name="Hand in take 1").click()
        student.get_by_role("button", name="Hand in").click()
        take = Take.objects.get()
        self.sign_in(self.teacher.username)
        self.visit(f"/takes/{take.pk}/")
        expect(self.page.locator(".takes .take").first).to_be_visible()
        expect(self.page.locator("body")).to_contain_text("notes inside the set")

    def test_by_ear_is_heard_and_counted_and_shows_nothing(self) -> None:
        given = factories.assignment(
            factories.exercise(self.teacher, melody(bars=2, bpm=120.0)), self.school_class
        )
        factories.allow(given, is_by_ear=True, listen_limit=1)
        student = self.students_page()
        self.visit(f"/stand/{given.pk}/", student)
        expect(student.locator("[data-answer]")).to_contain_text("Stand-in keys")
        self.assertEqual(student.locator("[data-page-view] .target").count(), 0)
        student.locator("[data-hear-part]").press("Enter")
        expect(student.locator("[data-hears-left]")).to_contain_text(re.compile("no|0|none", re.IGNORECASE))
        student.get_by_role("button", name="Stop").click()
        student.locator("[data-hear-part]").click()
        expect(student.locator("[data-state]")).to_contain_text("as often as this exercise allows")
        self.troubles = [one for one in self.troubles if "403" not in one]

    def test_shown_in_a_copy_by_keyboard_explained_and_read(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher, melody(bars=4)), self.school_class)
        factories.allow(given, to_show=(ToShow(skill=Skill.QUANTISED, in_words=InWords.OWN),
                                        ToShow(skill=Skill.LOUDNESS)))  # fmt: skip
        factories.take(self.students[0], given, habits=Habits(spread_ms=30))
        page = self.students_page()
        self.visit(f"/stand/{given.pk}/", page)
        page.get_by_role("link", name="Show in a copy").press("Enter")
        shown = page.locator("#showing li.is-shown")
        expect(shown).to_have_count(0)
        page.get_by_role("link", name="Quantise", exact=True).press("Enter")
        page.get_by_role("button", name="Quantise", exact=True).press("Enter")
        expect(shown).to_have_text(re.compile("quantised"))
        page.get_by_role("button", name=re.compile("^Undo")).press("Enter")
        expect(shown).to_have_count(0)
        page.get_by_role("button", name=re.compile("^Redo")).press("Enter")
        expect(shown).to_have_count(1)
        page.get_by_role("link", name="Back to the Stand").press("Enter")
        page.get_by_role("link", name=re.compile("Hand in")).first.press("Enter")
        page.get_by_role("button", name="Hand in").press("Enter")
        page.get_by_label("Quantised").fill("It pulls notes to the line.")
        page.get_by_role("button", name="Hand in").press("Enter")
        # The copy shows no loudness: that is asked about first, and nothing that was written is lost.
        page.get_by_label("Hand it in anyway").press("Space")
        page.get_by_role("button", name="Hand in").press("Enter")
        expect(page.locator("h1")).to_have_text("Receipt")
        self.sign_in(self.teacher.username)
        self.visit(f"/takes/{Take.objects.get().pk}/")
        expect(self.page.locator(".showing")).to_contain_text("It pulls notes to the line.")
        self.page.get_by_role("link", name="Mark Explained").press("Enter")
        self.page.get_by_role("checkbox", name="quantised").press("Space")
        self.page.get_by_role("button", name="Save").first.press("Enter")
        expect(self.page.locator(".mark-sheet .total .number")).to_have_text("67")

    def test_a_booklet_is_worked_through_and_handed_in_as_one(self) -> None:
        exercises = [factories.exercise(self.teacher, melody(bars=2, bpm=120.0)) for _ in range(2)]
        booklet = make_booklet(self.teacher, title="Two ropes", exercises=exercises)
        given = give_booklet(self.teacher, booklet, self.school_class, due_at=self.due)
        student = self.students_page()
        student.get_by_role("link", name="Two ropes").first.click()
        student.get_by_role("link", name="Continue with").click()
        expect(student.get_by_role("heading", name=exercises[0].title)).to_be_visible()
        for one in given.assignments.all():
            factories.take(self.students[0], one)
        self.visit(f"/stand/booklets/{given.pk}/", student)
        student.get_by_role("button", name="Hand in the 2 chosen takes together").click()
        expect(student.locator("body")).to_contain_text("2 of 2 handed in")
        self.sign_in(self.teacher.username)
        self.visit(f"/booklets/given/{given.pk}/")
        expect(self.page.locator("tr", has_text="Ada").get_by_role("link").first).to_be_visible()

    def test_marks_are_typed_where_they_stand(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        page = self.page
        self.sign_in(self.teacher.username)
        self.visit(f"/classes/{self.school_class.pk}/marks/")
        cells = page.locator(f"[data-cell*='/marks/a{given.pk}/']")
        cells.nth(0).get_by_role("link").focus()
        page.keyboard.type("80")
        page.keyboard.press("Enter")
        expect(cells.nth(0)).to_contain_text("80")
        expect(cells.nth(0).locator("xpath=ancestor::tr").locator(".mean").last).to_have_text("80.0")
        expect(cells.nth(1).get_by_role("link")).to_be_focused()
        page.keyboard.type("8x")
        page.keyboard.press("Enter")
        expect(cells.nth(1)).to_have_class(re.compile("is-wrong"))
        page.keyboard.press("Escape")
        page.keyboard.type("e")
        page.keyboard.press("Enter")
        expect(cells.nth(1)).to_have_class(re.compile("is-excused"))
        page.keyboard.press("ArrowUp")
        self.assertEqual(set(Entry.objects.values_list("state", flat=True)), {"mark", "excused"})
        self.troubles = [one for one in self.troubles if "422" not in one]
