"""A teacher's whole work without a mouse: every control is reached with Tab and known by its role and name."""

from playwright.sync_api import Locator, expect

from oido.exercises.models import Exercise
from oido.gradebook.models import Entry
from oido.takes.models import Take
from tests.browser.base import BrowserTest
from tests.oido import factories

TABS_MOST = 150
"""Further than this nobody goes with Tab."""
HAS_FOCUS = "element => element === document.activeElement"


class ByKeyboardTest(BrowserTest):
    def reach(self, role: str, name: str, *, exact: bool = True) -> Locator:
        """Press Tab until the control of this role and name has the focus."""
        control = self.page.get_by_role(role, name=name, exact=exact).first
        control.wait_for()
        for _ in range(TABS_MOST):
            if control.evaluate(HAS_FOCUS):
                return control
            self.page.keyboard.press("Tab")
        raise AssertionError(f"{role} “{name}” is not reached with Tab")

    def press(self, role: str, name: str, *, exact: bool = True, key: str = "Enter") -> None:
        self.reach(role, name, exact=exact)
        self.page.keyboard.press(key)

    def type(self, name: str, text: str) -> None:
        self.reach("textbox", name)
        self.page.keyboard.press("Control+a")
        self.page.keyboard.type(text)

    def test_make_give_mark_release_and_enter_marks(self) -> None:
        teacher, student = factories.teacher(), factories.student(first="Ada")
        school_class = factories.school_class(teachers=[teacher], students=[student])
        page = self.page
        self.visit("/sign-in/")
        self.type("Sign-in name", teacher.username)
        self.reach("textbox", "Password")
        page.keyboard.type(factories.PASSWORD)
        page.keyboard.press("Enter")

        self.press("link", "Exercises")
        self.press("link", "New exercise")
        self.type("Title", "By hand")
        self.press("button", "Open on the Bench")
        page.locator("#work[data-ready=yes]").wait_for()
        self.type("Bar by bar", "1 R: C4/4 D E F | G/1")
        self.press("button", "Write the notes")
        expect(page.get_by_text("Picked: G4")).to_be_visible()
        self.press("button", "Save")
        expect(page.get_by_text("Saved.")).to_be_visible()

        self.press("link", "By hand")
        self.press("link", "Give it")
        # The only class is ticked already: Space unticks it and ticks it again.
        ticked = self.reach("checkbox", school_class.name, exact=False)
        for is_checked in (False, True):
            page.keyboard.press("Space")
            expect(ticked).to_be_checked(checked=is_checked)
        self.press("button", "Give it")
        expect(page.get_by_text(f"Given to {school_class.name}.")).to_be_visible()
        exercise = Exercise.objects.get(title="By hand")
        given = exercise.assignments.get()
        factories.handed_in(student, given)

        self.press("link", "Marking")
        self.press("link", "Open the first")
        page.locator("[data-player][data-playing=no]").wait_for()
        self.press("button", "Release and next")
        expect(page.get_by_role("heading", name="Marking", exact=True)).to_be_visible()
        self.assertTrue(Take.objects.get().sheet.is_released)

        self.press("link", "Classes")
        self.press("link", school_class.name)
        self.press("link", "Marks")
        self.reach("link", f"{student.name}, By hand", exact=False)
        page.keyboard.type("77")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Mean: 77")).to_be_attached()
        self.assertEqual(Entry.objects.get().points, 77)
