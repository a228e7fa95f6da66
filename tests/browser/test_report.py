"""Reports, the desk, the class picture and feedback, as teacher and student use them."""

import re

from playwright.sync_api import expect

from ear.criteria.levels import DEFAULT_LEVEL
from ear.formats.events import events_from_take
from ear.judging.judge import Rules, judge
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.notes import Kind, TakeNote
from ear.notes import Take as EarTake
from ear.players.robot import Habits
from oido.feedback.remarks import save_phrase
from oido.marking.models import MarkSheet, Remark
from oido.marking.services import release
from oido.rubrics.scale import hearing_of, takes_of
from tests.browser.base import BrowserTest
from tests.ear.parts import melody, two_hands
from tests.oido import factories

REMEMBER_PLAYING = """() => {
  const foot = document.querySelector("[data-player]");
  new MutationObserver(() => {
    if (foot.dataset.playing === "yes") document.body.dataset.hasPlayed = "yes";
  }).observe(foot, { attributes: true, attributeFilter: ["data-playing"] });
}"""
WRONG, LATE = 2, 9


class ReportTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.teacher = factories.teacher()
        self.students = [factories.student(first=name) for name in ("Ada", "Ben", "Cem")]
        self.school_class = factories.school_class(teachers=[self.teacher], students=self.students)

    def known_take(self):
        """The third note wrong, the tenth late; all others where they are written."""
        part = melody(bars=4, bpm=120.0)
        given = factories.assignment(factories.exercise(self.teacher, part), self.school_class)
        played = [
            TakeNote(
                onset_s=n.onset_tick / 960 + 0.09 * (i == LATE), length_s=0.4, velocity=n.velocity,
                pitch=n.pitch + (i == WRONG),
            )
            for i, n in enumerate(part.notes)
        ]  # fmt: skip
        return factories.handed_in(self.students[0], given, events=events_from_take(EarTake.of(played)))

    def test_faults_are_stepped_through_and_heard_by_keyboard(self) -> None:
        page, take = self.page, self.known_take()
        self.sign_in(self.teacher.username)
        self.visit(f"/takes/{take.pk}/")
        foot, card = page.locator("[data-player]"), page.locator("#note-card")
        expect(foot).to_have_attribute("data-playing", "no")
        page.keyboard.press("f")
        expect(card).to_contain_text("Bar 1, beat 3: wrong note")
        expect(page.locator(f"#t{WRONG}")).to_have_class(re.compile("is-at"))
        page.keyboard.press("f")
        expect(card).to_contain_text("Bar 3, beat 2: late, +90 ms")
        page.keyboard.press("d")
        expect(card).to_contain_text("Bar 1, beat 3")
        page.evaluate(REMEMBER_PLAYING)
        page.keyboard.press("h")
        # A second of music may be over before anybody looks.
        expect(page.locator("body")).to_have_attribute("data-has-played", "yes")
        # A beat before it to a beat behind it, and no further.
        expect(foot).to_have_attribute("data-playing", "no")
        page.keyboard.press("Escape")
        expect(card).to_be_hidden()
        # By mouse, from a note that is no fault to the one behind it.
        self.click_note(5)
        expect(card).to_contain_text("right")
        card.get_by_role("button", name="next fault").click()
        expect(card).to_contain_text("Bar 3, beat 2")
        card.get_by_role("button", name="Add a remark").click()
        expect(page.get_by_label("Remark", exact=True)).to_be_focused()
        page.keyboard.type("Wait for it.")
        page.get_by_role("button", name="Pin").click()
        expect(page.locator(".flag")).to_have_count(1)
        remark = Remark.objects.get()
        self.assertEqual((remark.bar, remark.beat, remark.text), (3, 2, "Wait for it."))
        page.get_by_role("button", name="fault to fault").click()
        expect(foot).to_have_attribute("data-playing", "yes")
        page.keyboard.press("Space")
        expect(foot).to_have_attribute("data-playing", "no")

    def test_what_is_looked_at_stands_in_the_address(self) -> None:
        page = self.page
        given = factories.assignment(factories.exercise(self.teacher, two_hands()), self.school_class)
        take = factories.handed_in(self.students[0], given, habits=Habits(spread_ms=25, wrong_keys=0.1))
        self.sign_in(self.teacher.username)
        self.visit(f"/takes/{take.pk}/")
        page.locator(".look [name=of]").select_option("left")
        expect(page).to_have_url(re.compile(r"of=left"))
        expect(page.locator(".rows .target.is-faded")).to_have_count(24)
        page.locator(".look [name=rows]").select_option("8")
        expect(page.locator(".rows svg")).to_have_count(1)
        page.reload()
        expect(page.locator(".look [name=of]")).to_have_value("left")
        expect(page.locator(".rows svg")).to_have_count(1)
        page.locator(".look [name=of]").select_option("")
        letter = page.locator("[data-points-at]").first
        letter.click()
        self.assertGreater(page.locator(".rows .is-pointed").count(), 0)
        page.locator(".notation-place summary").click()
        expect(page.locator("#notation .head-mark").first).to_be_attached()

    def test_three_takes_are_marked_by_keyboard_without_a_page_loaded_anew(self) -> None:
        page = self.page
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        for student in self.students:
            factories.handed_in(student, given, habits=Habits(spread_ms=20, wrong_keys=0.1))
        save_phrase(self.teacher, "{name}, count bar {bar}.")
        self.sign_in(self.teacher.username)
        self.visit("/marking/")
        page.get_by_role("link", name="Open the first").click()
        heading = page.locator("h1")
        expect(heading).to_have_text("Ada Tester")
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "no")
        page.evaluate("window.isTheSame = true")
        page.keyboard.press("n")
        expect(heading).to_have_text("Ben Tester")
        page.keyboard.press("p")
        expect(heading).to_have_text("Ada Tester")
        page.keyboard.press("2")
        score = page.get_by_label("Score")
        expect(score).to_be_focused()
        score.fill("40")
        page.get_by_label("Why").fill("By ear.")
        page.keyboard.press("Enter")
        expect(page.locator("#mark")).to_contain_text("teacher’s score; measured")
        page.locator("#main").focus()
        page.keyboard.press("m")
        expect(page.get_by_label("Remark", exact=True)).to_be_focused()
        page.get_by_label("Bar", exact=True).fill("2")
        page.get_by_label("Saved phrase").select_option(index=1)
        expect(page.get_by_label("Remark", exact=True)).to_have_value("Ada, count bar 2.")
        page.get_by_role("button", name="Pin").click()
        expect(page.locator(".flag")).to_have_count(1)
        page.locator("#main").focus()
        page.keyboard.press("r")
        expect(heading).to_have_text("Ben Tester")
        expect(page.locator(".notices")).to_contain_text("Ada Tester can see the mark")
        page.keyboard.press("a")
        expect(heading).to_have_text("Cem Tester")
        # Sound works on a page that was put in another's place.
        page.keyboard.press("Space")
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "yes")
        page.keyboard.press("Space")
        self.assertTrue(page.evaluate("window.isTheSame"))
        page.keyboard.press("o")
        expect(page.get_by_label("What the student reads")).to_be_focused()
        page.keyboard.type("Once more, slower.")
        page.get_by_role("button", name="Ask", exact=True).click()
        expect(page.locator("h1")).to_have_text("Marking")
        by_name = {s.take.student.first_name: s for s in MarkSheet.objects.select_related("take__student")}
        self.assertTrue(by_name["Ada"].is_released)
        self.assertEqual((by_name["Ben"].is_released, by_name["Ben"].accepted_at is None), (False, False))
        self.assertEqual(by_name["Cem"].asked_again_why, "Once more, slower.")

    def test_keys_are_listed_and_can_be_switched_off(self) -> None:
        page, take = self.page, self.known_take()
        self.sign_in(self.teacher.username)
        self.visit(f"/takes/{take.pk}/")
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "no")
        page.keyboard.press("?")
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("next fault")
        dialog.get_by_label("Use single-key shortcuts").uncheck()
        dialog.get_by_role("button", name="Close").click()
        page.keyboard.press("f")
        page.wait_for_timeout(300)
        expect(page.locator("#note-card")).to_be_hidden()
        page.get_by_role("button", name="next fault").click()
        expect(page.locator("#note-card")).to_contain_text("wrong note")

    def test_other_settings_show_their_mark_before_they_are_kept(self) -> None:
        page, take = self.page, self.known_take()
        self.sign_in(self.teacher.username)
        self.visit(f"/takes/{take.pk}/")
        before = page.locator(".total .number").text_content()
        page.locator(".working > summary").click()
        page.get_by_label("Level").select_option("exacting")
        page.locator("[name=weight-timing]").fill("300")
        page.locator("[name=weight-timing]").press("Tab")
        expect(page.locator(".tried-mark .number")).to_have_text(re.compile(rf"^{before} → (?!{before}$)"))
        after = (page.locator(".tried-mark .number").text_content() or "").split("→")[1].strip()
        self.assertNotEqual(before, after)
        page.get_by_label("Reason").fill("An examination.")
        page.get_by_role("button", name="Save for this take").click()
        expect(page.locator(".total .number")).to_have_text(after)

    def test_a_rubric_shows_what_it_gives_and_a_scale_is_set_by_ear(self) -> None:
        page, exercise = self.page, factories.exercise(self.teacher)
        self.sign_in(self.teacher.username)
        self.visit("/rubrics/new/keyboard/")
        uneven = page.get_by_role("row", name="uneven by 45 ms").locator(".figure")
        before = uneven.text_content() or ""
        page.get_by_label("Level of strictness").select_option("exacting")
        expect(uneven).not_to_have_text(before)
        self.visit(f"/exercises/{exercise.pk}/scale/")
        hear = page.get_by_role("button", name="Hear take A")
        hear.click()
        expect(hear).to_have_class(re.compile("is-heard"))
        page.get_by_role("button", name="Stop").click()
        expect(hear).not_to_have_class(re.compile("is-heard"))
        heard = takes_of(hearing_of(self.teacher, exercise))
        rules = Rules(rubric=DEFAULT_RUBRICS[Kind.KEYBOARD], level=DEFAULT_LEVEL)
        for letter, one in zip("ABCDEFGH", heard, strict=True):
            field = page.get_by_label(f"Your mark for take {letter}")
            field.fill(f"{judge(one.facts, rules).total:.0f}")
            field.press("Tab")
        expect(page.locator("#scale-answer")).to_contain_text("The greatest difference is")
        page.get_by_label("Name of the rubric").fill("As I hear it")
        page.get_by_label("Name of the rubric").press("Tab")
        page.get_by_role("button", name="Save as a rubric").click()
        page.wait_for_url(re.compile(r"/rubrics/\d+/$"))
        expect(page.locator("h1")).to_have_text("As I hear it")

    def test_a_field_of_the_class_picture_is_heard_and_bars_become_an_exercise(self) -> None:
        page = self.page
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        for student in self.students[:2]:
            factories.handed_in(student, given, habits=Habits(spread_ms=8, stop_after_bar=6))
        self.sign_in(self.teacher.username)
        self.visit(f"/assignments/{given.pk}/")
        field = page.get_by_role("button", name="Ada Tester, bar 2")
        field.click()
        expect(field).to_have_class(re.compile("is-heard"))
        page.get_by_role("button", name="Stop").click()
        expect(field).not_to_have_class(re.compile("is-heard"))
        # The two worst bars are ticked already.
        page.get_by_role("button", name="Exercise of these bars").click()
        page.wait_for_url(re.compile(r"/bench/\d+/"))
        expect(page.locator("main")).to_contain_text("bars 7, 8")

    def test_feedback_leads_to_the_very_bars_at_the_stand_and_an_answer_comes_back(self) -> None:
        page, take = self.page, self.known_take()
        release(self.teacher, take)
        self.sign_in(self.students[0].username)
        page.get_by_role("link", name=take.assignment.exercise.title).click()
        thing = page.locator(".to-do").first
        thing.get_by_role("button", name="Hear it").click()
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "yes")
        page.keyboard.press("Escape")
        page.get_by_label("What you want to say").fill("Was that the F?")
        page.get_by_role("button", name="Send").click()
        expect(page.locator("#replies")).to_contain_text("Was that the F?")
        thing.get_by_role("link", name="Practise this").click()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        expect(page.locator("[data-state]")).to_contain_text("Set: bar 1 at")
        expect(page.locator("[data-tempo]")).to_have_value("90")
        expect(page.locator("[data-loop]")).to_be_checked()
