"""Reports in a real browser: how soon they can be used, next to next, and scrolling: `./oido bench report`.

    python -m benches.report_in_browser ADDRESS

The server at ADDRESS and this script use the same throwaway database.
"""

import statistics
import sys
import time

import django

django.setup()

from playwright.sync_api import Page, sync_playwright  # noqa: E402

from benches.scene import Scene  # noqa: E402
from oido.people.scope import Scope, within  # noqa: E402
from tests.browser.chromium import CHROMIUM, FLAGS  # noqa: E402

PASSWORD = "quiet-anchor-12"
STUDENTS = 9
LARGE = 10_000
SCROLL_S = 5
FRAME_MS = 1000 / 60
READY = """() => document.querySelectorAll(".rows svg .target").length > 50 && document.querySelector("[data-player]")?.dataset.playing === "no" """
FRAMES = """
(seconds) => new Promise((done) => {
  const gaps = [], end = performance.now() + 1000 * seconds;
  let before = performance.now();
  const step = (now) => {
    gaps.push(now - before);
    before = now;
    window.scrollBy(0, 24);
    if (now < end) requestAnimationFrame(step); else done(gaps.slice(2));
  };
  requestAnimationFrame(step);
})
"""


def opened(page: Page, address: str, url: str) -> float:
    """Milliseconds from the wish to a report that can be used."""
    start = time.perf_counter()
    page.goto(f"{address}{url}", wait_until="commit")
    page.wait_for_function(READY)
    return 1000 * (time.perf_counter() - start)


def next_to_next(page: Page) -> float:
    """A teacher has looked at a take for a moment; the next one is asked for, and can be used."""
    page.wait_for_timeout(1500)
    before = page.url
    start = time.perf_counter()
    page.keyboard.press("n")
    page.wait_for_function("(before) => location.href !== before", arg=before)
    page.wait_for_function(READY)
    return 1000 * (time.perf_counter() - start)


def main(address: str) -> None:
    scene = Scene(students=STUDENTS, password=PASSWORD)
    takes = {size: scene.takes(scene.assignment(size)) for size in (100, 1000)}
    scene.students = scene.students[:1]
    large = scene.takes(scene.assignment(LARGE))[0]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(f"{address}/sign-in/")
        page.fill("[name=username]", scene.teacher.username)
        page.fill("[name=password]", PASSWORD)
        page.press("[name=password]", "Enter")
        page.wait_for_url(f"{address}/")
        for size, actual in takes.items():
            url = f"/takes/{actual[0].pk}/?assignment={actual[0].assignment_id}"
            usable = [opened(page, address, url) for _ in range(5)]
            onward = [next_to_next(page) for _ in range(STUDENTS - 1)]
            print(
                f"{size:,} notes: usable after {statistics.median(usable):.0f} ms; "
                f"next to next {statistics.median(onward):.0f} ms in the middle, {max(onward):.0f} at most"
            )
        opened(page, address, f"/takes/{large.pk}/")
        page.wait_for_function(
            "(n) => document.querySelectorAll('.rows .target').length === n", arg=LARGE, timeout=120_000
        )
        page.wait_for_timeout(1000)
        gaps = page.evaluate(FRAMES, SCROLL_S)
        slow = sum(gap > 1.5 * FRAME_MS for gap in gaps)
        print(
            f"{LARGE:,} notes scrolled: {len(gaps) / (sum(gaps) / 1000):.0f} frames a second; "
            f"middle {statistics.median(gaps):.1f} ms, 95th percentile {sorted(gaps)[int(0.95 * len(gaps))]:.1f} ms, "
            f"{slow} of {len(gaps)} frames late"
        )
        browser.close()


if __name__ == "__main__":
    with within(Scope.EVERYWHERE):
        main(sys.argv[1])
