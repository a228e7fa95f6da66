"""A school moves in: from an instance without a school to a take that a student has handed in."""

from unittest import mock

from playwright.sync_api import expect

from ear.formats.events import events_from_take
from ear.players.robot import play
from oido.exercises.models import TargetPart
from oido.opening.services import new_setup_code
from oido.people.models import User
from oido.takes.models import HandIn
from tests.browser.base import BrowserTest
from tests.browser.clocks import IDEAL_CLOCK
from tests.browser.test_journey import HABITS, PERFORM
from tests.oido import factories

PASSWORD = "lantern-orchard-7"
SLIP = "ABCD-EFGH-JKLM"


class MovingInTest(BrowserTest):
    def press(self, name: str, *, role: str = "button", page=None) -> None:
        (page or self.page).get_by_role(role, name=name, exact=True).first.click()

    def fill(self, page=None, **said: str) -> None:
        for name, value in said.items():
            (page or self.page).locator(f"form [name={name}]").last.fill(value)

    def test_from_an_empty_instance_to_a_handed_in_take(self) -> None:
        code = new_setup_code()
        page = self.page
        self.visit("/classes/")
        expect(page.get_by_role("heading", name="Set up your school")).to_be_visible()
        said = {
            "school": "Quayside Music",
            "first": "Odile",
            "last": "Marsh",
            "username": "odile",
            "password1": PASSWORD,
        }
        self.fill(code="WRON-GCOD-E234", **said, password2=PASSWORD)
        page.get_by_label("Time zone").fill("Europe/Lisbon")
        self.press("Make the school")
        expect(page.get_by_text("not the code that was printed")).to_be_visible()
        self.fill(code=code.lower(), password1=PASSWORD, password2=PASSWORD)
        self.press("Make the school")
        expect(page.get_by_role("heading", name="First steps")).to_be_visible()
        page.get_by_label("Name of the class").fill("Monday Keys")
        self.press("Make a class")
        expect(page.get_by_role("heading", name="Monday Keys")).to_be_visible()
        self.press("Add a student", role="link")
        self.fill(first="Ruben", last="Vale")
        self.press("Add")
        expect(page.get_by_text("with the sign-in name ruben.vale")).to_be_visible()
        # The slip is printed by a worker, who makes its code.
        with mock.patch("oido.access.services.new_code", return_value=SLIP):
            self.press("Print a new slip")
            page.wait_for_url("**/jobs/**")
            factories.work_all()
        self.visit("/first-steps/")
        self.press("Choose ready-made exercises", role="link")
        self.press("Morning Gate", role="link")
        self.press("Add to my exercises")
        page.get_by_role("link", name="Give it").click()
        expect(page.get_by_role("checkbox", name="Monday Keys")).to_be_checked()
        self.press("Give it")
        expect(page.locator("#watch")).to_contain_text("0 of 1 handed in")
        self.student_hands_in()

    def student_hands_in(self) -> None:
        student = self.new_page()
        # Where this machine's sound stumbles, the notes played here by the wall clock miss their bars.
        student.add_init_script(IDEAL_CLOCK)
        self.visit(f"/slip/{SLIP}/", student)
        self.press("Go on", page=student)
        expect(student.get_by_text("ruben.vale")).to_be_visible()
        self.fill(student, new_password1=PASSWORD, new_password2=PASSWORD)
        self.press("Save and sign in", page=student)
        student.get_by_role("link", name="Open the Stand").click()
        expect(student.locator("[data-answer]")).to_contain_text("Stand-in keys")
        student.evaluate("midiStandIn.send([0x90, 60, 77]); midiStandIn.send([0x80, 60, 0])")
        expect(student.locator("[data-answer]")).to_contain_text("answers: ")
        played = events_from_take(
            play(TargetPart.objects.get(current_of__title="Morning Gate").read(), HABITS, seed=4)
        )
        student.evaluate(PERFORM, [list(event) for event in played])
        self.press("Record", page=student)
        expect(student.locator("[data-state]")).to_have_text("Take stored.")
        student.get_by_role("link", name="Hand in take 1").click()
        self.press("Hand in", page=student)
        expect(student.get_by_role("status").first).to_contain_text("Take 1 has been handed in.")
        self.assertEqual(HandIn.objects.get().student, User.objects.get(username="ruben.vale"))
