"""Benches of the Stand in a real browser: `./oido bench recording`, `./oido bench latency`.

    python -m benches.stand ADDRESS recording|latency

The server at ADDRESS and this script use the same throwaway database.
"""

import sys
from datetime import timedelta
from decimal import Decimal

import django

django.setup()

from django.utils import timezone  # noqa: E402
from playwright.sync_api import Page, sync_playwright  # noqa: E402

from ear.notes import Kind, MeterMap, Note, Part, TempoMap  # noqa: E402
from oido.assignments.models import Assignment  # noqa: E402
from oido.exercises.services import NewExercise, create_exercise  # noqa: E402
from oido.people.models import Role, School, SchoolClass  # noqa: E402
from oido.people.scope import Scope, within  # noqa: E402
from oido.people.services import new_member  # noqa: E402
from oido.takes.models import Take  # noqa: E402
from tests.browser.chromium import CHROMIUM, FLAGS, MIDI_STAND_IN  # noqa: E402
from tests.browser.clocks import IDEAL_CLOCK  # noqa: E402

PASSWORD = "quiet-anchor-12"
NOTES, SECONDS, BPM = 2000, 120, 120
PRESSES, GAP_MS = 400, 40
SHORT = 128
CLICK_MINUTES, CLICK_BPM, RATE = 10, 97.3, 48_000

INJECT = """
(events) => {
  const stand = document.querySelector("[data-stand]");
  new MutationObserver(() => {
    const zero = Number(stand.dataset.downbeatMs);
    if (!zero) return;
    for (const [timeMs, ...bytes] of events) {
      const at = zero + timeMs;
      setTimeout(() => midiStandIn.send(bytes, at), at - performance.now());
    }
  }).observe(stand, { attributeFilter: ["data-downbeat-ms"] });
}
"""
STOPPED_TO_READING = """
() => new Promise((done) => {
  const stand = document.querySelector("[data-stand]");
  const before = document.querySelectorAll("#takes [data-take]").length;
  let stopped = 0;
  const look = () => {
    const isRecording = stand.classList.contains("is-recording");
    if (!isRecording && window.hasBegun && !stopped) stopped = performance.now();
    window.hasBegun ||= isRecording;
    const fresh = document.querySelectorAll("#takes [data-take]").length > before;
    if (stopped && fresh && document.querySelector("#takes .bar-state")) done(performance.now() - stopped);
    else setTimeout(look, 5);
  };
  look();
})
"""
DEVICE = """
([count, gapMs]) => new Promise((done) => {
  const code = `let k = 0; const timer = setInterval(() => {
    postMessage(performance.timeOrigin + performance.now());
    if (++k >= ${count}) clearInterval(timer);
  }, ${gapMs});`;
  const worker = new Worker(URL.createObjectURL(new Blob([code])));
  let k = 0;
  worker.onmessage = ({ data }) => {
    midiStandIn.send([k % 2 ? 0x80 : 0x90, 60 + ((k >> 1) % 12), 70], data - performance.timeOrigin);
    if (++k >= count) done();
  };
})
"""
"""An instrument on a thread of its own, as a real one is: its messages wait where the page is busy."""
CLICKS = """
async ([minutes, bpm, rate]) => {
  const named = (name) => performance.getEntriesByType("resource").map((e) => e.name).find((url) => url.includes(`/${name}.`));
  const { Sound } = await import(named("sound"));
  const { Recorder } = await import(named("recorder"));
  const context = new OfflineAudioContext(1, minutes * 60 * rate + rate, rate);
  const recorder = new Recorder(new Sound({ worklet: "", bank: "" }, context), null, [], 0, {});
  const step = 60 / bpm;
  const count = Math.floor((minutes * 60) / step);
  const beats = Array.from({ length: count }, (_, k) => ({ time: k * step, beat: (k % 4) + 1, bar: 1, beats: 4, isCountIn: false }));
  recorder.schedule(0.5, beats, count * step);
  const samples = (await context.startRendering()).getChannelData(0);
  return beats.map(({ time }) => {
    const wanted = Math.round((0.5 + time) * rate);
    // A sine begins with a zero: the first sample that is heard is the second.
    let at = wanted - 200;
    while (samples[at] === 0 && at < wanted + 200) at += 1;
    return at - 1 - wanted;
  });
}
"""


def dense_part(notes: int = NOTES) -> Part:
    """So many notes, as many a second as fill two minutes with all, up and down two octaves."""
    step = SECONDS * BPM * 8 / NOTES
    return Part.of(
        (
            Note(
                onset_tick=round(k * step), length_tick=max(1, round(step) - 4),
                pitch=60 + (k * 7) % 24, velocity=60 + k % 50,
            )
            for k in range(notes)
        ),
        kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(BPM),
    )  # fmt: skip


def prepare(part: Part) -> Assignment:
    school = School.objects.create(name="Bench")
    teacher = new_member(school, Role.TEACHER, username="bench-teacher")
    student = new_member(school, Role.STUDENT, username="bench", password=PASSWORD, first_name="Bench")
    school_class = SchoolClass.objects.create(school=school, name="Bench")
    school_class.teachers.add(teacher)
    school_class.students.add(student)
    new = NewExercise(
        title="Dense", kind="keyboard", instructions="", tempo_bpm=Decimal(BPM), count_in_bars=1, level="building",
        part=part,
    )  # fmt: skip
    now = timezone.now()
    return Assignment.objects.create(
        school=school, exercise=create_exercise(teacher, new), school_class=school_class, given_by=teacher, given_at=now,
        due_at=now + timedelta(days=1),
    )  # fmt: skip


def open_stand(page: Page, address: str, given: Assignment) -> None:
    page.goto(f"{address}/sign-in/")
    page.get_by_label("Sign-in name").fill("bench")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url(f"{address}/")
    page.goto(f"{address}/stand/{given.pk}/")
    page.locator("[data-stand][data-ready=yes]").wait_for()


def share(values: list[float], part: float) -> float:
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(part * len(ordered)))]


def recording(page: Page, address: str, given: Assignment, clock: str) -> None:
    """A dense take of two minutes: how near events are stored, how soon the reading is there."""
    part = dense_part()
    open_stand(page, address, given)
    sent: list[list[float]] = []
    for note in part.notes:
        on = 1000 * part.tempos.second_at(note.onset_tick)
        off = 1000 * part.tempos.second_at(note.end_tick)
        sent += [[on, 0x90, note.pitch, note.velocity], [off, 0x80, note.pitch, 64]]
    sent.sort()
    page.evaluate(INJECT, sent)
    page.get_by_role("button", name="Record").click()
    waited = page.evaluate(STOPPED_TO_READING)
    events = Take.objects.all()[0].events
    off_ms = [abs(a[0] - b[0]) for a, b in zip(events, sent, strict=True)]
    stumbled = page.locator("[data-warning]").inner_text()
    print(
        f"{clock}: {len(events):,} events; off by {share(off_ms, 0.5):.2f} ms in the middle, "
        f"{share(off_ms, 0.99):.2f} at the 99th percentile, {max(off_ms):.2f} at most; "
        f"reading {waited / 1000:.2f} s after stopping"
        + ("; the audio clock stumbled, as the page says" if stumbled else ""),
        flush=True,
    )


def told(page: Page, what: str) -> None:
    took = page.evaluate("window.took.splice(0)")
    print(
        f"{what}, {len(took)} events to the sound call: {share(took, 0.5):.2f} ms in the middle, "
        f"{share(took, 0.95):.2f} at the 95th percentile, {max(took):.2f} at most"
    )


def latency(page: Page, address: str) -> None:
    """From a key to the call that sounds it; and where the click falls."""
    open_stand(page, address, prepare(dense_part(SHORT)))
    page.evaluate("midiStandIn.send([0x90, 60, 70])")
    page.get_by_role("button", name="Sound test").click()
    page.locator("[data-answer]:has-text('Three notes')").wait_for()
    page.wait_for_timeout(3000)
    page.evaluate(
        "window.took = []; document.querySelector('[data-stand]')"
        ".addEventListener('note-sounded', (event) => window.took.push(event.detail))"
    )
    page.evaluate(DEVICE, [2 * PRESSES, GAP_MS])
    told(page, "MIDI messages")
    page.get_by_label("Play on").select_option("typing")
    page.keyboard.press("Escape")
    for k in range(PRESSES):
        page.keyboard.press(f"Key{'ASDFGHJK'[k % 8]}")
        page.wait_for_timeout(GAP_MS)
    told(page, "typing keys")
    off = page.evaluate(CLICKS, [CLICK_MINUTES, CLICK_BPM, RATE])
    print(
        f"{len(off):,} clicks in {CLICK_MINUTES} min at {CLICK_BPM:g}: off by {min(off)} to {max(off)} samples "
        f"of {RATE:,} a second; the last one by {off[-1]}"
    )


def main(address: str, what: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)

        def page_with(*scripts: str) -> Page:
            context = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
            for script in (MIDI_STAND_IN, *scripts):
                context.add_init_script(script)
            page = context.new_page()
            page.set_default_timeout(200_000)
            return page

        if what == "recording":
            given = prepare(dense_part())
            recording(page_with(IDEAL_CLOCK), address, given, "by a clock that never stumbles")
            recording(page_with(), address, given, "by this machine's own audio clock")
        else:
            latency(page_with(), address)
        browser.close()


if __name__ == "__main__":
    with within(Scope.EVERYWHERE):
        main(sys.argv[1], sys.argv[2])
