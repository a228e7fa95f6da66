"""Pages in a language whose words are longer: nothing runs out of its place."""

from contextlib import ExitStack

from oido.people.models import User
from tests.browser.test_access import WIDTHS, Checked
from tests.oido import test_permissions as permissions
from tests.oido.pseudo import CODE, pseudo_language

OF_TEACHERS = ("home", "exercise", "bench", "take", "marking", "gradebook", "rubric")
OF_STUDENTS = ("home", "stand", "hand-in")
CUT_OFF = """() => [...document.querySelectorAll("button, .btn, th, h1, h2, legend, label")]
  .filter((element) => {
    const style = getComputedStyle(element);
    const is_cut = element.clientWidth > 2 && element.scrollWidth > element.clientWidth + 1;
    return is_cut && style.overflowX !== "visible" && style.textOverflow !== "ellipsis";
  }).map((element) => element.textContent.trim())"""
"""What does not fit into its place. Words for screen readers alone are a pixel wide; the rest of a step to be undone is in its title."""


class LongerWordsTest(permissions.Scene, Checked):
    def setUp(self) -> None:
        super().setUp()
        self.fill()
        User.objects.update(language=CODE)
        offered = ExitStack()
        offered.enter_context(pseudo_language())
        self.addCleanup(offered.close)

    def look_at(self, person: User, names: tuple[str, ...]) -> None:
        self.sign_in(person.username)
        for name in names:
            path = self.path(name, permissions.REACHES[name][2])
            self.visit(path)
            self.assertEqual(self.page.evaluate("document.documentElement.lang"), CODE)
            self.nothing_is_too_wide(path)
            for width in WIDTHS:
                self.page.set_viewport_size({"width": width, "height": 800})
                with self.subTest(path=path, width=width):
                    self.assertEqual(self.page.evaluate(CUT_OFF), [])

    def test_pages_of_teachers_hold_longer_words(self) -> None:
        self.look_at(self.teacher, OF_TEACHERS)

    def test_pages_of_students_hold_longer_words(self) -> None:
        self.look_at(self.student, OF_STUDENTS)
