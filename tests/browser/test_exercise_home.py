"""The exercise's page: its rules in sentences, its ladder on the music, as a student sees it, its results."""

from dataclasses import replace

from playwright.sync_api import expect

from ear.formats.events import events_from_take
from ear.players.robot import Habits, play
from oido.exercises.models import Exercise
from oido.takes.models import RungClimbed, Take, Visit
from tests.browser.base import BrowserTest
from tests.browser.test_journey import PERFORM
from tests.ear.parts import melody, two_hands
from tests.oido import factories


class HomeTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.teacher, self.student = factories.teacher(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.exercise = factories.exercise(self.teacher, two_hands())
        # A page that glides moves a note away from under the pointer.
        self.page.emulate_media(reduced_motion="reduce")
        self.sign_in(self.teacher.username)

    def open(self, where: str = "") -> None:
        self.visit(f"/exercises/{self.exercise.pk}/{where}")
        expect(self.page.locator("[data-player]")).to_have_attribute("data-playing", "no")

    def test_a_choice_is_opened_refused_left_and_set_by_keyboard(self) -> None:
        page = self.page
        self.open()
        choice = page.locator("#choice-handed-in")
        choice.press("Enter")
        least, together = page.get_by_label("Takes before one"), page.get_by_label("Takes handed in together")
        expect(least).to_be_focused()
        together.fill("2")
        together.press("Enter")
        expect(page.locator("[data-choice-open] .wrong")).to_contain_text("More takes are")
        expect(together).to_be_focused()
        expect(together).to_have_value("2")
        together.press("Escape")
        expect(choice).to_be_focused()
        expect(choice).to_have_text("One take.")
        choice.press("Enter")
        expect(least).to_be_focused()
        least.fill("3")
        least.press("Enter")
        expect(choice).to_have_text("One of at least three takes.")
        expect(choice).to_be_focused()
        self.assertEqual(Exercise.objects.get().recording_rules.least_takes, 3)

    def test_a_ladder_is_drawn_over_the_music_and_heard(self) -> None:
        page = self.page
        self.open("ladder/")
        first, last = (self.box_of(f".bar-place[data-bar='{n}']") for n in (2, 3))
        page.mouse.move(first["x"] + 9, first["y"] + 4)
        page.mouse.down()
        page.mouse.move(last["x"] + 9, last["y"] + 4, steps=4)
        expect(page.locator(".bar-place.is-chosen")).to_have_count(2)
        page.mouse.up()
        expect(page.get_by_label("Name", exact=True)).to_have_value("bars 2 to 3")
        left = next(k for k, note in enumerate(two_hands().notes) if note.hand and note.hand.value == "left")
        self.click_note(left)
        expect(page.get_by_label("the left hand")).to_be_checked()
        apart = page.locator(".target.is-apart").count()
        self.assertGreater(apart, len(two_hands().notes) / 2)
        page.get_by_role("button", name="Save the ladder").click()
        expect(page.locator(".rungs li")).to_contain_text("bars 2 to 3, left hand")
        page.locator("[data-hear-only]").click()
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "yes")

    def test_a_ladder_is_drawn_by_finger(self) -> None:
        page = self.page = self.new_page(has_touch=True, reduced_motion="reduce")
        page.set_viewport_size({"width": 768, "height": 1024})
        self.sign_in(self.teacher.username, page)
        self.open("ladder/")
        (x, y), (to_x, to_y) = (self.middle_of(f".bar-place[data-bar='{n}']") for n in (2, 3))
        self.draw_by_finger(page, (x, y), (x + 9, y), (to_x, to_y))
        expect(page.get_by_label("Name", exact=True)).to_have_value("bars 2 to 3")
        right = next(
            k for k, note in enumerate(two_hands().notes) if note.hand and note.hand.value == "right"
        )
        # Fingers that are injected and taps are told apart by time: the rest is clicked.
        self.click_note(right)
        expect(page.get_by_label("the right hand")).to_be_checked()
        page.get_by_role("button", name="Save the ladder").click()
        expect(page.locator(".rungs li")).to_contain_text("bars 2 to 3, right hand")

    def test_a_ladder_by_keyboard_alone(self) -> None:
        page = self.page
        self.open("ladder/")
        music = page.locator("[data-ladder-music]")
        for key in ("ArrowRight", "ArrowRight", "Shift+ArrowRight", "Enter"):
            music.press(key)
        name = page.get_by_label("Name", exact=True)
        expect(name).to_have_value("bars 2 to 3")
        name.fill("the turn")
        name.press("Enter")
        expect(page.locator(".ladder-rungs > li")).to_contain_text("the turn")
        page.locator("#rung-menu-0").press("Enter")
        page.get_by_role("button", name="once more the turn").press("Enter")
        expect(page.locator(".ladder-rungs > li")).to_have_count(2)
        expect(page.locator("#rung-menu-0")).to_be_focused()
        page.get_by_role("button", name="Undo").press("Enter")
        expect(page.locator(".ladder-rungs > li")).to_have_count(1)
        page.get_by_role("button", name="Save the ladder").press("Enter")
        expect(page.locator(".rungs")).to_contain_text("the turn")
        (rung,) = Exercise.objects.get().practice_ladder.rungs
        self.assertEqual((rung.name, rung.first_bar, rung.last_bar), ("the turn", 2, 3))

    def test_a_teacher_plays_as_a_student_would_and_nothing_is_stored(self) -> None:
        page = self.page
        part = melody(bars=1, bpm=160.0)
        self.exercise = factories.exercise(self.teacher, part)
        self.open()
        posts: list[str] = []
        page.on("request", lambda request: request.method == "POST" and posts.append(request.url))
        page.get_by_text("More", exact=True).click()
        page.get_by_role("link", name="See it as a student does").click()
        expect(page.locator("[data-answer]")).to_contain_text("Stand-in keys")
        page.evaluate(PERFORM, [list(one) for one in events_from_take(play(part, Habits(), seed=3))])
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-state]")).to_contain_text("Yours was not")
        expect(page.get_by_role("button", name="Record")).to_be_enabled()
        page.get_by_role("button", name="Practise", exact=True).click()
        expect(page.locator("[data-loop-news]")).to_contain_text("points")
        page.keyboard.press("Space")
        page.get_by_role("link", name="Back to the exercise").click()
        expect(page.get_by_role("heading", name=self.exercise.title)).to_be_visible()
        self.assertTrue(all(url.endswith("/loops/") for url in posts), posts)
        for stored in (Take, Visit, RungClimbed):
            self.assertFalse(stored.objects.exists(), stored)

    def test_results_are_over_the_bars(self) -> None:
        given = factories.assignment(self.exercise, self.school_class)
        part = two_hands()
        lame = replace(
            part, notes=tuple(n for n in part.notes if part.meters.bar_at(n.onset_tick).number != 2)
        )
        factories.handed_in(
            self.student, given, events=events_from_take(play(lame, Habits(spread_ms=5), seed=2))
        )
        self.open()
        expect(self.page.locator("[data-trouble]").first).to_be_attached()
        expect(self.page.locator("[data-page-view] [data-bar='2']")).to_have_attribute("data-trouble", "4")
        expect(self.page.locator("[data-page-view] [data-bar='6']")).to_have_attribute("data-trouble", "0")
        expect(self.page.locator("section[data-trouble]")).to_contain_text("bar 2 (1)")
