"""What the main pages cost a small computer on a slow line: `./oido bench pages`.

    python -m benches.pages ADDRESS

Each page of the demo school is opened in a browser of its own with nothing kept, at a quarter of the CPU's speed and 1.5 Mbit/s:
how much is sent, in how many requests, how far the layout moves, and when the page can be used. Beside each figure stands its
budget; the exit status is 1 where one is over it. The server at ADDRESS and this script use the same throwaway database.
"""

import sys
from collections.abc import Callable
from dataclasses import dataclass

import django

django.setup()

from playwright.sync_api import Browser, BrowserContext, Page, sync_playwright  # noqa: E402

from oido.demo.accounts import PASSWORD  # noqa: E402
from oido.exercises.models import Exercise  # noqa: E402
from oido.people.models import SchoolClass  # noqa: E402
from oido.people.scope import Scope, within  # noqa: E402
from oido.takes.models import Take  # noqa: E402
from tests.browser.chromium import CHROMIUM, FLAGS  # noqa: E402

TEACHER, STUDENT = "ines", "maren"
CPU_SLOWDOWN = 4
BYTES_PER_S, LATENCY_MS = 1_500_000 / 8, 40
MAX_KB, MAX_REQUESTS, MAX_SHIFT, MAX_USABLE_S = 300, 25, 0.05, 2.5
QUIET_MS = 1500
LOADED = "document.readyState === 'complete'"
PLAYER_READY = "document.querySelector('[data-player]')?.dataset.playing === 'no'"
BENCH_READY = "document.querySelector('#work')?.dataset.ready === 'yes'"
WATCH = """
window.shift = 0;
new PerformanceObserver((list) => {
  for (const entry of list.getEntries()) if (!entry.hadRecentInput) window.shift += entry.value;
}).observe({ type: "layout-shift", buffered: true });
"""


@dataclass(frozen=True, slots=True)
class Cost:
    """Of one page: what was sent for it, and how it behaved until it was quiet."""

    kb: float
    requests: int
    shift: float
    usable_s: float

    @property
    def is_within_budget(self) -> bool:
        return (
            self.kb <= MAX_KB
            and self.requests <= MAX_REQUESTS
            and self.shift <= MAX_SHIFT
            and self.usable_s <= MAX_USABLE_S
        )


def signed_in(browser: Browser, address: str, username: str) -> BrowserContext:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto(f"{address}/sign-in/")
    page.fill("[name=username]", username)
    page.fill("[name=password]", PASSWORD)
    page.press("[name=password]", "Enter")
    page.wait_for_url(f"{address}/")
    return context


def cost_of(browser: Browser, address: str, username: str, path: str, ready: str) -> Cost:
    """Open a page as its first one after signing in elsewhere: nothing of it is kept."""
    known = signed_in(browser, address, username)
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, storage_state=known.storage_state()
    )
    known.close()
    context.add_init_script(WATCH)
    page = context.new_page()
    sent = _counted(page)
    page.goto(address + path, wait_until="commit")
    page.wait_for_function(f"() => {LOADED} && {ready or 'true'}", timeout=120_000)
    usable_s = page.evaluate("performance.now()") / 1000
    page.wait_for_timeout(QUIET_MS)
    count, size = sent()
    cost = Cost(kb=size / 1000, requests=count, shift=page.evaluate("window.shift"), usable_s=usable_s)
    context.close()
    return cost


def _counted(page: Page) -> Callable[[], tuple[int, float]]:
    """Slow a page down; return what tells how many requests it made and the bytes that were sent for them."""
    devtools = page.context.new_cdp_session(page)
    line = {
        "offline": False,
        "latency": LATENCY_MS,
        "downloadThroughput": BYTES_PER_S,
        "uploadThroughput": BYTES_PER_S,
    }
    devtools.send("Network.enable")
    devtools.send("Network.emulateNetworkConditions", line)
    devtools.send("Emulation.setCPUThrottlingRate", {"rate": CPU_SLOWDOWN})
    sizes: list[float] = []
    devtools.on("Network.loadingFinished", lambda event: sizes.append(event["encodedDataLength"]))
    return lambda: (len(sizes), sum(sizes))


def main(address: str) -> int:
    take = Take.objects.filter(handed_in_at__isnull=False, assignment__given_by__username=TEACHER).order_by(
        "number"
    )[0]
    exercise = Exercise.objects.filter(owner__username=TEACHER, task="part", is_begun=False).order_by("pk")[0]
    school_class = SchoolClass.objects.filter(teachers__username=TEACHER)[0]
    is_within = True
    print(f"{'page':10} {'KB':>6} {'requests':>9} {'shift':>7} {'usable, s':>10}")
    print(f"{'at most':10} {MAX_KB:6} {MAX_REQUESTS:9} {MAX_SHIFT:7} {MAX_USABLE_S:10}")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        for name, username, path, ready in (
            ("Today", TEACHER, "/", ""), ("report", TEACHER, f"/takes/{take.pk}/", PLAYER_READY),
            ("Bench", TEACHER, f"/bench/{exercise.pk}/", BENCH_READY), ("desk", TEACHER, "/marking/", ""),
            ("Marks", TEACHER, f"/classes/{school_class.pk}/marks/", ""), ("home", STUDENT, "/", ""),
        ):  # fmt: skip
            cost = cost_of(browser, address, username, path, ready)
            over = "" if cost.is_within_budget else "   over"
            is_within = is_within and cost.is_within_budget
            print(
                f"{name:10} {cost.kb:6.0f} {cost.requests:9} {cost.shift:7.3f} {cost.usable_s:10.2f}{over}",
                flush=True,
            )
        browser.close()
    return int(not is_within)


if __name__ == "__main__":
    with within(Scope.EVERYWHERE):
        sys.exit(main(sys.argv[1]))
