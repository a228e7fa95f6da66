"""The browser of a student is killed while it records: what was played until a moment before is sent when it is opened again."""

import os
import signal
import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from random import Random
from typing import Any

from django.utils import timezone
from playwright.sync_api import BrowserContext, Page, sync_playwright
from playwright.sync_api import Error as BrowserError

from benches.installation import Installation
from launch.database import Database
from launch.places import DATA
from launch.processes import environment
from tests.browser.chromium import CHROMIUM, FLAGS, MIDI_STAND_IN

USERNAME, PASSWORD = "bench-0", "quiet-anchor-12"
NOTES = 400
KEYS = "asdfghjk"
PLAYING_S = (2.0, 14.0)
KEPT_WITHIN_S = 3.0
"""What was pressed earlier than this before the kill has to be there."""
SENT_WITHIN_MS = 60_000
RECORDING = "[data-stand][data-doing=recording]"
"""The Stand from bar 1 on."""


def browsers_killed(kills: int, seed: int) -> dict[str, Any]:
    """Kill so many browsers while they record; return what came of it."""
    installation = Installation()
    installation.start()
    try:
        os.environ |= environment(Database(folder=DATA / "empty", port=installation.db_port))
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        import django

        django.setup()
        from benches.scene import Scene
        from oido.people.scope import Scope, within

        with within(Scope.EVERYWHERE), sync_playwright() as playwright:
            given = Scene(students=1, password=PASSWORD).assignment(NOTES)
            student = _Student(playwright, installation.address, given.pk, Random(seed))
            recordings = []
            for _number in range(kills):
                recordings.append(student.record_and_be_killed())
                student.come_back(recordings[-1])
            student.context.close()
            counts, faults = compared(recordings)
    finally:
        installation.stop()
    return {"killed": {"browser": kills}, "counts": dict(counts + student.counts), "faults": faults}


@dataclass(frozen=True, slots=True, kw_only=True)
class Recording:
    """One that was killed: when it began, and how many keys were pressed in time to be kept."""

    began_at: datetime
    early_presses: int


def compared(recordings: Sequence[Recording]) -> tuple[Counter[str], dict[str, list[object]]]:
    """Compare what is stored with what was recorded. A take belongs to a recording by when it says it was recorded."""
    from oido.takes.models import Take

    counts: Counter[str] = Counter()
    faults: dict[str, list[object]] = {"takes lost": [], "notes lost": [], "sent twice": []}
    ends = [recording.began_at for recording in recordings[1:]] + [None]
    for number, (recording, end) in enumerate(zip(recordings, ends, strict=True)):
        takes = Take.objects.filter(recorded_at__gte=recording.began_at)
        arrived = list(takes.filter(recorded_at__lt=end) if end else takes)
        pressed = sum(
            bool(status & 0xF0 == 0x90 and velocity)
            for take in arrived
            for _time, status, _key, velocity in take.events
        )
        counts["takes stored"] += len(arrived)
        counts["keys pressed in time to be kept"] += recording.early_presses
        counts["keys in takes"] += pressed
        if len(arrived) > 1:
            faults["sent twice"].append(number)
        elif recording.early_presses and not arrived:
            faults["takes lost"].append(number)
        elif pressed < recording.early_presses:
            faults["notes lost"].append((number, recording.early_presses, pressed))
    return counts, faults


class _Student:
    """A student on a computer of their own: its browser keeps its files when it is killed."""

    def __init__(self, playwright: Any, address: str, given: int, random: Random) -> None:
        self.playwright, self.address, self.given, self.random = playwright, address, given, random
        self.profile = DATA / "browser"
        self.counts: Counter[str] = Counter()
        self.page = self._at_home()

    def _at_home(self) -> Page:
        """Open the browser at the first page. Killed soon after signing in, it has forgotten that, and signs in again."""
        page, home = self._opened(), f"{self.address}/"
        page.goto(home)
        if page.url != home:
            page.get_by_label("Sign-in name").fill(USERNAME)
            page.get_by_label("Password").fill(PASSWORD)
            page.get_by_role("button", name="Sign in").click()
            page.wait_for_url(home)
        return page

    def _opened(self) -> Page:
        self.context: BrowserContext = self.playwright.chromium.launch_persistent_context(
            str(self.profile), executable_path=CHROMIUM, args=FLAGS, headless=True
        )
        self.context.add_init_script(MIDI_STAND_IN)
        page: Page = self.context.pages[0] if self.context.pages else self.context.new_page()
        page.set_default_timeout(SENT_WITHIN_MS)
        return page

    def record_and_be_killed(self) -> Recording:
        """Record, from bar 1 on: what is pressed earlier in the count-in belongs to no take."""
        page = self.page
        page.goto(f"{self.address}/stand/{self.given}/")
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.get_by_label("Play on").select_option("typing")
        page.get_by_label("Play on").blur()
        began_at = timezone.now()
        page.keyboard.press("Enter")
        page.locator(RECORDING).wait_for()
        pressed = []
        until = time.monotonic() + self.random.uniform(*PLAYING_S)
        while time.monotonic() < until:
            page.keyboard.press(self.random.choice(KEYS))
            if not page.locator(RECORDING).count():
                # Where the sound stands still on a busy machine, the Stand stops by itself.
                self.counts["stopped by itself"] += 1
                break
            pressed.append(time.monotonic())
            time.sleep(self.random.uniform(0.05, 0.3))
        killed_at = time.monotonic()
        _kill_all_of(self.profile)
        try:
            self.context.close()
        except BrowserError:
            self.counts["cut off"] += 1
        return Recording(
            began_at=began_at, early_presses=sum(killed_at - at > KEPT_WITHIN_S for at in pressed)
        )

    def come_back(self, recording: Recording) -> None:
        """Open the first page again, and wait for what arrives."""
        from oido.takes.models import Take

        self.page = self._at_home()
        deadline = time.monotonic() + SENT_WITHIN_MS / 1000
        takes = Take.objects.filter(recorded_at__gte=recording.began_at)
        while recording.early_presses and not takes.exists() and time.monotonic() < deadline:
            time.sleep(0.3)
        # A second copy would come now.
        time.sleep(1.0)


def _kill_all_of(profile: Path) -> None:
    """Kill the browser with this profile, all of its processes."""
    mark = f"--user-data-dir={profile}".encode()
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            if mark in (folder / "cmdline").read_bytes():
                os.kill(int(folder.name), signal.SIGKILL)
        except OSError:
            continue
