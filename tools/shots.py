"""Take the screenshots of the main views from the demo school.

Usage: python tools/shots.py ADDRESS FOLDER   (./oido shots does it all)
"""

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from oido.demo.accounts import PASSWORD
from tests.browser.chromium import CHROMIUM, FLAGS, MIDI_STAND_IN

SIZE = {"width": 1280, "height": 800}
TIMEOUT_MS = 60_000


class Photographer:
    def __init__(self, page: Page, address: str, folder: Path) -> None:
        self.page, self.address, self.folder = page, address, folder

    def sign_in(self, username: str) -> None:
        self.page.context.clear_cookies()
        self.page.goto(self.address + "/sign-in/")
        self.page.fill("#id_username", username)
        self.page.fill("#id_password", PASSWORD)
        self.page.click("main button.btn")
        self.page.wait_for_url(self.address + "/")

    def shoot(self, name: str, path: str | None = None) -> None:
        if path is not None:
            self.page.goto(self.address + path)
        self.page.evaluate("document.fonts.ready")
        self.page.mouse.move(0, 0)
        self.page.screenshot(path=self.folder / f"{name}.png")
        print(f"  {name}.png", flush=True)

    def teacher_and_keyboard(self) -> None:
        page = self.page
        self.sign_in("ines")
        self.shoot("teacher-today")
        self.shoot("library", "/exercises/")
        page.get_by_role("link", name="Bass under the Lamp").click()
        page.get_by_role("link", name="Give it").click()
        page.get_by_label("Takes allowed").wait_for(state="attached")
        self.shoot("giving")
        page.goto(self.address + "/exercises/")
        page.get_by_role("link", name="Ferry Bell").click()
        page.locator("[data-player][data-playing=no]").wait_for()
        page.locator("section[data-trouble]").wait_for()
        self.shoot("exercise-keyboard")
        exercise = page.url
        page.goto(f"{exercise}ladder/")
        page.locator("[data-player][data-playing=no]").wait_for()
        page.get_by_role("button", name="Propose from the part").click()
        page.locator("#open-3").click()
        page.get_by_label("Name", exact=True).wait_for()
        page.evaluate("window.scrollTo(0, 0)")
        self.shoot("ladder")
        page.once("dialog", lambda dialog: dialog.accept())
        page.goto(exercise)
        page.get_by_role("link", name="Edit on the Bench").click()
        page.locator("#work[data-ready=yes]").wait_for()
        page.locator("[data-pick-bar='3']").click()
        page.get_by_role("link", name="Transpose").click()
        page.locator("#leaf-news p").wait_for()
        self.shoot("bench-keyboard")
        self.marks()

    def marks(self) -> None:
        page = self.page
        page.goto(self.address + "/marking/")
        page.get_by_role("link", name="Finn Adeyo").first.click()
        page.locator("[data-player][data-playing=no]").wait_for()
        page.keyboard.press("f")
        page.locator("#note-name").wait_for()
        self.shoot("report-keyboard")
        page.evaluate("window.scrollTo(0, 0)")
        page.get_by_text("Show the working").click()
        page.locator("#try").wait_for()
        # A choice made while the form is still being put in place is not heard.
        page.locator("#try.htmx-settling, .htmx-settling #try").wait_for(state="detached")
        page.locator(".try-settings [name=level]").select_option("exacting")
        page.locator(".tried-mark").wait_for()
        page.evaluate("window.scrollTo(0, 420)")
        self.shoot("working")
        page.goto(self.address + "/classes/")
        page.get_by_role("link", name="Tuesday Keys").click()
        self.shoot("class")
        page.get_by_role("link", name="Marks", exact=True).click()
        page.locator("[data-grid]").wait_for()
        self.shoot("marks")
        page.go_back()
        page.get_by_role("link", name="Slack Water").first.click()
        page.get_by_role("link", name="Class picture").click()
        page.locator("[data-class-picture]").wait_for()
        self.shoot("class-picture")
        page.goto(self.address + "/rubrics/")
        page.get_by_role("link", name="Slipway evening rubric").first.click()
        self.shoot("rubric")

    def drums(self) -> None:
        self.sign_in("bram")
        self.page.goto(self.address + "/exercises/")
        page = self.page
        page.get_by_role("link", name="Loose Cargo").click()
        page.get_by_role("link", name="Edit on the Bench").click()
        page.locator("#work[data-ready=yes]").wait_for()
        page.get_by_role("button", name="Grid of steps").click()
        page.locator("#grid table").wait_for()
        self.shoot("bench-drums")

    def playing(self) -> None:
        page = self.page
        page.get_by_label("Play on").select_option("screen")
        page.keyboard.press("Escape")
        page.locator("[data-record]").click()
        page.locator("[data-bar-now]", has_text="bar 1 of").wait_for()
        for _ in range(4):
            page.locator(".keyboard .is-next").first.click()
            page.wait_for_timeout(500)
        self.shoot("playing")
        page.keyboard.press("Space")
        page.get_by_role("button", name="Save it as a take").wait_for()

    def student(self) -> None:
        page = self.page
        self.sign_in("maren")
        page.get_by_role("link", name="Open the Stand").first.click()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.evaluate("midiStandIn.send([0x90, 67, 74])")
        page.wait_for_selector("[data-answer]:has-text('G4, 74')")
        self.shoot("stand-keyboard")
        self.playing()
        self.page.goto(self.address + "/")
        page.get_by_role("link", name="Lamp on the Quay", exact=True).click()
        self.shoot("feedback-student")
        self.shoot("progress", "/progress/")

    def spanish(self) -> None:
        """A drum take as its teacher reads it in Spanish, and a student’s Stand."""
        page = self.page
        self.sign_in("bram")
        self.read_spanish()
        page.goto(self.address + "/marking/")
        page.get_by_role("link", name="Nadia Fenwright").first.click()
        page.locator("[data-player][data-playing=no]").wait_for()
        self.shoot("report-spanish")
        self.sign_in("joss")
        self.read_spanish()
        page.goto(self.address + "/")
        page.get_by_role("link", name="Abrir el Atril").first.click()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        self.shoot("stand-spanish")

    def read_spanish(self) -> None:
        self.page.goto(self.address + "/naming/")
        self.page.get_by_label("Language").first.select_option("es")
        self.page.get_by_role("button", name="Save for me").click()
        self.page.get_by_text("Guardar para mí").wait_for()


def main(address: str, folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        context = browser.new_context(reduced_motion="reduce", viewport=SIZE, locale="en-GB")
        context.add_init_script(MIDI_STAND_IN)
        page = context.new_page()
        page.set_default_timeout(TIMEOUT_MS)
        photographer = Photographer(page, address, folder)
        photographer.teacher_and_keyboard()
        photographer.drums()
        photographer.student()
        photographer.spanish()
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]))
