"""From an idea to a part: by keyboard alone, and by mouse."""

from playwright.sync_api import expect

from oido.exercises.models import Exercise
from tests.browser.base import BrowserTest
from tests.oido import factories


class BenchTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.teacher = factories.teacher()
        self.sign_in(self.teacher.username)

    def tab_to(self, selector: str) -> None:
        """Press Tab until something is reached, as somebody without a mouse does."""
        wanted = self.page.locator(selector)
        for _ in range(80):
            if wanted.evaluate("e => e === document.activeElement"):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"{selector} is not reached by Tab")

    def begin_by_keyboard(self, title: str, way_steps: int) -> None:
        """Title, then the way by arrow keys from the one that is chosen, then Enter."""
        page = self.page
        self.visit("/bench/new/")
        self.tab_to("#id_title")
        page.keyboard.type(title)
        page.keyboard.press("Tab")
        for _ in range(abs(way_steps)):
            page.keyboard.press("ArrowDown" if way_steps > 0 else "ArrowUp")

    def put_on_the_bench(self) -> None:
        self.page.keyboard.press("Enter")
        self.page.wait_for_url("**/bench/*/")

    def keep(self) -> Exercise:
        self.tab_to(".bench-bar .btn")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text("This is the exercise’s part.")).to_be_visible()
        return Exercise.objects.latest("pk")

    def test_a_five_finger_melody_with_fingers_is_put_right_by_keyboard(self) -> None:
        page = self.page
        self.begin_by_keyboard("Rail by Rail", 0)
        self.put_on_the_bench()
        self.tab_to("#bench-page")
        page.keyboard.press("ArrowRight")
        expect(page.locator("#picked")).to_contain_text("C4 in bar 1, beat 1")
        page.keyboard.press("ArrowRight")
        expect(page.locator("#picked")).to_contain_text("D4 in bar 1, beat 2")
        page.keyboard.press("ArrowUp")
        expect(page.locator("#picked")).to_contain_text("D♯4")
        page.keyboard.press("Control+z")
        expect(page.get_by_text("Do again: Move")).to_be_visible()
        exercise = Exercise.objects.latest("pk")
        self.assertEqual([n.finger for n in exercise.part.read().notes], [1, 2, 3, 4, 5, 4, 3, 2, 1])
        self.assertEqual([n.pitch for n in exercise.part.read().notes][:3], [60, 62, 64])

    def test_a_line_of_steps_is_written_and_kept_by_keyboard(self) -> None:
        page = self.page
        self.begin_by_keyboard("Steps Ashore", -2)
        self.put_on_the_bench()
        self.tab_to("#steps-text")
        page.keyboard.type("C4 E G C5")
        page.keyboard.press("Enter")
        expect(page.locator("#picked")).to_contain_text("4 notes are picked")
        expect(page.locator("#steps-bar")).to_have_value("2")
        self.tab_to("#steps-text")
        page.keyboard.type("B4+G _ - C5")
        page.keyboard.press("Enter")
        expect(page.locator("#steps-bar")).to_have_value("3")
        notes = [(n.onset_tick, n.pitch, n.length_tick) for n in self.keep().part.read().notes]
        self.assertEqual(notes[:4], [(0, 60, 480), (480, 64, 480), (960, 67, 480), (1440, 72, 480)])
        self.assertEqual(notes[4:], [(1920, 67, 960), (1920, 71, 960), (3360, 72, 480)])

    def test_a_scale_goes_through_twelve_keys_by_keyboard(self) -> None:
        page = self.page
        self.begin_by_keyboard("Round the Harbour", 1)
        self.put_on_the_bench()
        self.tab_to("details.tool:has(#chain-do) summary")
        page.keyboard.press("Enter")
        self.tab_to("#chain-do")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Take back: Key chain")).to_be_visible()
        part = self.keep().part.read()
        self.assertEqual((len(part.sections), len(part.notes)), (12, 12 * 15))

    def test_chords_and_a_beat_with_accents_are_made_by_mouse(self) -> None:
        page = self.page
        for title, way, tool in (
            ("Four Lamps", "a chord sequence", None),
            ("Two Bars", "a beat", "Strength"),
        ):
            self.visit("/bench/new/")
            page.get_by_label("Title").fill(title)
            page.get_by_label(way, exact=True).check()
            page.get_by_role("button", name="Put it on the Bench").click()
            page.wait_for_url("**/bench/*/")
            if tool:
                page.locator("summary", has_text=tool).click()
                page.locator("#strength-do").click()
                expect(page.get_by_text(f"Take back: {tool}")).to_be_visible()
        first, second = page.locator("#t0"), page.locator("#t1")
        first.click(force=True)
        expect(page.locator("#picked")).to_contain_text("in bar 1, beat 1")
        second.click(force=True, modifiers=["Shift"])
        expect(page.locator("#picked")).to_contain_text("2 notes are picked")
        expect(page.locator(".is-picked")).to_have_count(2)
        page.keyboard.press("Delete")
        expect(page.get_by_text("Take back: Delete")).to_be_visible()
        expect(page.locator(".is-picked")).to_have_count(0)
        box = page.locator(".row-of-bars .staff-lines").first.bounding_box()
        page.mouse.dblclick(box["x"] + 0.4 * box["width"], box["y"] + box["height"] / 2)
        expect(page.get_by_text("Take back: Put a note")).to_be_visible()
        expect(page.locator("#picked")).to_contain_text("Picked: snare")

    def test_what_is_wrong_is_said_beside_the_tool(self) -> None:
        page = self.page
        self.begin_by_keyboard("Wrong Words", 0)
        self.put_on_the_bench()
        page.locator("#steps-text").fill("C4 zap")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("unknown note “zap”")
        expect(page.locator("#steps-text")).to_have_value("C4 zap")
