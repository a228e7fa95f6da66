"""A take is kept in the browser until the server has it: once, whole."""

import time

from django.utils import timezone
from mido import MidiFile
from playwright.sync_api import Route, expect

from ear.formats.part_json import part_to_json
from oido.assignments.models import Assignment
from oido.takes.models import Take
from tests.browser.base import BrowserTest
from tests.ear.parts import beat
from tests.oido import factories

TAKES = "**/stand/*/takes/"
SETTLE_S = 0.5


class OutboxTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.student = factories.student()
        teacher = factories.teacher()
        school_class = factories.school_class(teachers=[teacher], students=[self.student])
        self.given = factories.assignment(factories.exercise(teacher, beat(bars=1, bpm=200)), school_class)
        self.sign_in(self.student.username)
        self.visit(f"/stand/{self.given.pk}/")

    def record(self) -> None:
        page = self.page
        page.get_by_label("Play on").select_option("typing")
        page.get_by_label("Play on").blur()
        expect(page.locator("[data-pitch]").first).to_be_visible()
        expect(page.locator("[data-answer]")).to_contain_text("Press a letter")
        page.keyboard.press("Enter")
        expect(page.locator("[data-state]")).to_contain_text("Recording")
        page.keyboard.press("j")

    def test_with_the_network_away_it_waits_here_and_is_sent_by_itself(self) -> None:
        page = self.page
        page.route(TAKES, lambda route: route.abort())
        self.record()
        expect(page.locator("[data-outbox]")).to_contain_text(
            "One take is kept here and will be sent automatically. You are offline."
        )
        self.assertFalse(Take.objects.exists())
        self.troubles.clear()  # the browser calls the refused request an error
        page.unroute(TAKES)
        expect(page.locator("[data-state]")).to_have_text("Take stored.")
        expect(page.locator("[data-outbox]")).to_be_empty()
        self.troubles.clear()
        self.assertEqual(Take.objects.count(), 1)

    def test_an_answer_that_got_lost_does_not_make_a_second_take(self) -> None:
        page, sent = self.page, []

        def lose_the_first_answer(route: Route) -> None:
            response = route.fetch()
            sent.append(response.status)
            if len(sent) == 1:
                route.abort()
            else:
                route.fulfill(response=response)

        page.route(TAKES, lose_the_first_answer)
        self.record()
        expect(page.locator("[data-state]")).to_have_text("Take stored.")
        self.troubles.clear()
        self.assertEqual(sent, [201, 201])
        self.assertEqual(Take.objects.count(), 1)

    def test_it_is_still_here_after_a_reload(self) -> None:
        page = self.page
        page.route(TAKES, lambda route: route.abort())
        self.record()
        expect(page.locator("[data-outbox]")).to_contain_text("kept here")
        page.unroute(TAKES)
        self.visit("/")
        self.visit(f"/stand/{self.given.pk}/")
        expect(page.locator("#takes th[scope=row]")).to_have_count(1)
        self.troubles.clear()
        self.assertEqual(Take.objects.count(), 1)

    def test_sent_by_the_page_before_while_this_one_was_on_its_way_it_is_in_the_list(self) -> None:
        page, held = self.page, []
        page.route(TAKES, lambda route: route.abort())
        self.record()
        expect(page.locator("[data-outbox]")).to_contain_text("kept here")
        page.unroute(TAKES)
        page.route(TAKES, lambda route: held.append(route))
        with page.expect_request(TAKES):
            self.visit("/")

        def answer_once_it_was_sent(route: Route) -> None:
            response = route.fetch()
            with page.expect_request_finished(lambda request: request.url == held[0].request.url):
                held[0].continue_()
            # The page before clears its outbox with this answer: nothing is left here to send.
            time.sleep(SETTLE_S)
            route.fulfill(response=response)

        page.route(f"**/stand/{self.given.pk}/", answer_once_it_was_sent)
        self.visit(f"/stand/{self.given.pk}/")
        expect(page.locator("#takes th[scope=row]")).to_have_count(1)
        self.troubles.clear()
        self.assertEqual(Take.objects.count(), 1)

    def test_a_server_that_falters_is_asked_again(self) -> None:
        page, answers = self.page, [503, 502]
        page.route(TAKES, lambda route: route.fulfill(status=answers.pop()) if answers else route.continue_())
        self.record()
        expect(page.locator("[data-outbox]")).to_contain_text("Oido could not save it (error 50")
        expect(page.locator("[data-state]")).to_have_text("Take stored.")
        self.troubles.clear()
        self.assertEqual(Take.objects.count(), 1)

    def test_signed_out_meanwhile_it_is_sent_once_one_is_signed_in_again(self) -> None:
        page = self.page
        expect(page.locator("[data-stand]")).to_have_attribute("data-ready", "yes")
        page.context.clear_cookies()
        self.record()
        expect(page.locator("[data-outbox]")).to_contain_text("kept here")
        other = page.context.new_page()
        self.sign_in(self.student.username, other)
        # Either page may send it: it arrives once.
        expect(page.locator("[data-outbox]")).to_be_empty()
        self.troubles.clear()
        self.assertEqual(Take.objects.count(), 1)

    def test_three_tabs_of_one_student_send_a_take_once_and_all_show_it(self) -> None:
        context = self.page.context
        context.route(TAKES, lambda route: route.abort())
        self.record()
        tabs = [self.page, context.new_page(), context.new_page()]
        for tab in tabs[1:]:
            self.visit(f"/stand/{self.given.pk}/", tab)
        for tab in tabs:
            expect(tab.locator("[data-outbox]")).to_contain_text("One take is kept here")
        context.unroute(TAKES)
        # Two send at the same moment; the third has to learn of it from them.
        held: list[Route] = []
        context.route(TAKES, lambda route: held.append(route))
        for tab in tabs[:2]:
            tab.evaluate("window.dispatchEvent(new Event('online'))")
        while len({route.request.frame.page for route in held}) < 2:
            self.page.wait_for_timeout(100)
        for route in held:
            route.continue_()
        context.unroute(TAKES)
        for tab in tabs:
            expect(tab.locator("#takes [data-take]")).to_have_count(1)
        for tab in tabs:
            expect(tab.locator("[data-outbox]")).to_be_empty()
        self.troubles.clear()  # the browser calls the refused requests errors
        self.assertEqual(Take.objects.count(), 1)

    def test_a_page_closed_while_recording_loses_nothing_that_was_played(self) -> None:
        page = self.page
        self.given.exercise.parts.update(data=part_to_json(beat(bars=8, bpm=100)))
        page.reload()
        self.record()
        page.wait_for_timeout(1500)
        page.keyboard.press("f")
        page.wait_for_timeout(1500)
        page.close()
        other = page.context.new_page()
        self.visit("/", other)
        expect(other.locator("[data-outbox]")).to_be_attached()
        self.visit(f"/stand/{self.given.pk}/", other)
        expect(other.locator("#takes [data-take]")).to_have_count(1)
        self.assertEqual([e[2] for e in Take.objects.get().events if e[1] == 0x90], [38, 36])

    def test_one_refused_take_holds_up_no_other_and_can_be_downloaded(self) -> None:
        page, refused = self.page, []

        def refuse_the_first(route: Route) -> None:
            sent = route.request.post_data_json["id"]
            refused.append(sent)
            if sent == refused[0]:
                route.fulfill(status=404, content_type="text/html", body="<h1>Page not found</h1>")
            else:
                route.continue_()

        page.route(TAKES, refuse_the_first)
        self.record()
        expect(page.locator("[data-outbox]")).to_contain_text("This exercise is no longer set for you.")
        page.keyboard.press("Enter")
        expect(page.locator("[data-state]")).to_contain_text("Recording")
        page.keyboard.press("j")
        expect(page.locator("[data-state]")).to_have_text("Take stored.")
        self.assertEqual(Take.objects.count(), 1)
        with page.expect_download() as downloaded:
            page.get_by_role("button", name="Download").click()
        messages = MidiFile(downloaded.value.path()).tracks[0]
        self.assertEqual([message.note for message in messages if message.type == "note_on"], [38])
        page.get_by_role("button", name="Delete").click()
        expect(page.locator("[data-outbox]")).to_be_empty()
        self.troubles.clear()

    def test_a_take_for_a_withdrawn_exercise_is_kept_for_the_student(self) -> None:
        page = self.page
        expect(page.locator("[data-stand]")).to_have_attribute("data-ready", "yes")
        Assignment.objects.filter(pk=self.given.pk).update(withdrawn_at=timezone.now())
        self.record()
        expect(page.locator("#takes")).to_contain_text("Your teacher has withdrawn this exercise")
        self.visit("/")
        page.get_by_role("link", name=self.given.exercise.title).click()
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        self.assertEqual(Take.objects.get().student, self.student)
        self.troubles.clear()

    def test_what_the_server_does_not_take_is_said_and_can_be_deleted(self) -> None:
        page = self.page
        expect(page.locator("[data-stand]")).to_have_attribute("data-ready", "yes")
        factories.take(self.student, self.given)
        factories.allow(self.given, attempts=1)
        self.record()
        expect(page.locator("[data-outbox]")).to_contain_text(
            "already recorded all the takes that this exercise allows"
        )
        page.get_by_role("button", name="Delete").click()
        expect(page.locator("[data-outbox]")).to_be_empty()
        self.troubles.clear()
