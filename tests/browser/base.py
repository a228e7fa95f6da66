"""What the browser journeys share: a real server, a real browser, a stand-in for Web MIDI."""

import re
from collections.abc import Callable
from typing import Any

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import tag
from playwright.sync_api import Page, Route, expect, sync_playwright

from tests.browser.chromium import CHROMIUM, FLAGS, MIDI_STAND_IN
from tests.oido import factories
from tests.oido.factories import PASSWORD

NO_CONTENT = 204
TIMEOUT_MS = 60_000
"""Far beyond what is needed: a busy machine is slow, not broken."""
expect.set_options(timeout=TIMEOUT_MS)


def is_plain(value: Any) -> bool:
    """Can it be sent to another process as it is?"""
    return isinstance(value, str | int | float | bool | bytes | None)


BOX_OF = """async ([selector, nth]) => {
  const place = () => {
    const element = [...document.querySelectorAll(selector)].at(nth);
    if (!element) return null;
    let box = element.getBoundingClientRect();
    // Outside of the window, or under what stands still over the music, nobody can point at it.
    if (!document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2)?.closest("svg, .music")) {
      element.scrollIntoView({ block: "center", behavior: "instant" });
      box = element.getBoundingClientRect();
    }
    return { x: box.x, y: box.y, width: box.width, height: box.height };
  };
  let box = place();
  // Nobody points at what still moves: a page scrolls to what it has just opened.
  for (let still = 0, frames = 0; still < 5 && frames < 600; frames += 1) {
    await new Promise(requestAnimationFrame);
    const now = place();
    still = box && JSON.stringify(now) === JSON.stringify(box) ? still + 1 : 0;
    box = now;
  }
  return box;
}"""


@tag("browser")
class BrowserTest(StaticLiveServerTestCase):
    """A page for each test; errors of scripts and refused requests fail it."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        cls.addClassCleanup(cls.browser.close)

    def __getstate__(self) -> dict[str, Any]:
        """As it goes to the process that runs it, and back with a failure: without pages and what clears up after it."""
        plain = {name: value for name, value in self.__dict__.items() if is_plain(value)}
        return {**plain, "_cleanups": [], "_outcome": None, "_type_equality_funcs": {}}

    def setUp(self) -> None:
        self.troubles: list[str] = []
        self.page = self.new_page()
        self.addCleanup(lambda: self.assertFalse(self.troubles, "\n".join(self.troubles)))

    def new_page(self, *, midi: bool = True, **options: Any) -> Page:
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800},
            **{"locale": "en-GB", "service_workers": "block"} | options,
        )
        self.addCleanup(context.close)
        if midi:
            context.add_init_script(MIDI_STAND_IN)
        page = context.new_page()
        page.set_default_timeout(TIMEOUT_MS)
        page.on("pageerror", lambda error: self.troubles.append(str(error)))
        page.on("console", self._note_console)
        return page

    def _note_console(self, message: Any) -> None:
        # A refused form is answered with 422, which the browser's console calls an error.
        if message.type == "error" and "422" not in message.text:
            self.troubles.append(message.text)

    def intercept(self, address: str | re.Pattern[str], answer: Callable[[Route], Any]) -> None:
        """Answer the next request to an address in place of the server.

        The browser switches interception on in its own time: a request made straight after `route` may still go past
        it, to the server. So this waits until a request of its own has been caught.
        """
        self.page.route("**/icon.svg?caught", lambda route: route.fulfill(status=NO_CONTENT))
        self.page.route(address, lambda route: answer(route), times=1)
        ask = "fetch('/static/common/icon.svg?caught', { cache: 'no-store' }).then((answer) => answer.status)"
        while self.page.evaluate(ask) != NO_CONTENT:
            pass

    def box_of(self, selector: str, page: Page | None = None, *, nth: int = 0) -> dict[str, float]:
        """Where something of the music lies in the window, read in one go.

        Rows are drawn anew at any moment, each note where it was: who points at it points at a place, and not at a piece of
        the drawing that may be gone between looking and pressing.
        """
        return (page or self.page).evaluate(BOX_OF, [selector, nth])

    def middle_of(self, selector: str, page: Page | None = None) -> tuple[float, float]:
        box = self.box_of(selector, page)
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def click_note(self, number: int, *modifiers: str) -> None:
        for key in modifiers:
            self.page.keyboard.down(key)
        self.page.mouse.click(*self.middle_of(f"#t{number}"))
        for key in modifiers:
            self.page.keyboard.up(key)

    def draw_by_finger(self, page: Page, *places: tuple[float, float]) -> None:
        """A finger put down at the first place, drawn past the others, and lifted."""
        finger = page.context.new_cdp_session(page)
        for k, (x, y) in enumerate(places):
            kind = "touchMove" if k else "touchStart"
            finger.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": x, "y": y}]})
        finger.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
        finger.detach()

    def file_is_opened(self, address: str = "**/import/*/") -> None:
        """A file that was sent is opened in the background; the page goes on by itself."""
        self.page.wait_for_url(address)
        factories.work_all()
        self.page.locator("main form").wait_for()

    def visit(self, path: str, page: Page | None = None) -> None:
        (page or self.page).goto(self.live_server_url + path)

    def sign_in(self, username: str, page: Page | None = None) -> None:
        page = page or self.page
        self.visit("/sign-in/", page)
        page.get_by_label("Sign-in name").fill(username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_url(self.live_server_url + "/")
