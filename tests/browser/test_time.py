"""Recording time: what is stored stands where it was played, against the scheduled downbeat."""

from playwright.sync_api import Page, expect

from oido.takes.models import Take
from tests.browser.base import BrowserTest
from tests.browser.test_journey import PERFORM
from tests.ear.parts import melody
from tests.oido import factories

WITHIN_MS = 1.0
SHARE = 0.99
EVENTS = 120
TRIES = 4
STALL = "setTimeout(() => { const end = performance.now() + 150; while (performance.now() < end); }, 2500)"


class RecordingTimeTest(BrowserTest):
    def test_events_are_stored_where_they_were(self) -> None:
        """Injected at known times, with the page stalled for 150 ms on the way."""
        teacher, student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[teacher], students=[student])
        exercise = factories.exercise(teacher, melody(bars=2, bpm=120))
        given = factories.assignment(exercise, school_class)
        page = self.page
        self.sign_in(student.username)
        self.visit(f"/stand/{given.pk}/")
        expect(page.locator("[data-answer]")).to_contain_text("Stand-in keys")
        sent = [[31.25 * k + 0.137 * (k % 7), 0x90 if k % 2 == 0 else 0x80, 60, 70] for k in range(EVENTS)]
        page.evaluate(PERFORM, sent)
        self.record_undisturbed(page)
        stored = Take.objects.order_by("-number")[0].events
        self.assertEqual([event[1:] for event in stored], [event[1:] for event in sent])
        off = sorted(abs(a[0] - b[0]) for a, b in zip(stored, sent, strict=True))
        self.assertLess(off[int(SHARE * (len(off) - 1))], WITHIN_MS, f"worst {off[-5:]}")

    def record_undisturbed(self, page: Page) -> None:
        """A machine too busy for sound says so and asks to record again: then that is done."""
        for number in range(1, TRIES + 1):
            page.get_by_role("button", name="Record").click()
            page.evaluate(STALL)
            expect(page.locator("#takes")).to_contain_text(f"take {number}")
            if not page.locator("[data-warning]").inner_text():
                return
        self.fail(f"the sound stumbled in each of {TRIES} takes")
