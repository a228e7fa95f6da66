"""Pages that a screen reader and a keyboard can use; browsers without MIDI."""

from datetime import timedelta
from io import BytesIO
from pathlib import Path

from django.contrib.sessions.models import Session
from django.test import override_settings
from django.utils import timezone
from PIL import Image, ImageChops
from playwright.sync_api import expect

from ear.formats.smf_writing import write_part
from ear.practice.showing import InWords, Skill, ToShow
from ear.recording.from_file import read_to_plain
from oido.exercises.services import store_upload
from oido.marking.hand_in import hand_in
from oido.roster.joining import open_code
from tests.browser.base import BrowserTest
from tests.ear.parts import two_hands
from tests.oido import factories
from tests.oido import test_permissions as permissions

AXE = Path(__file__).resolve().parents[2] / "node_modules" / "axe-core" / "axe.min.js"
RULES = """{
    runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'],
    rules: {'heading-order': {enabled: true}, 'page-has-heading-one': {enabled: true}},
}"""
IN_THE_DARK = "{runOnly: {type: 'rule', values: ['color-contrast', 'link-in-text-block']}}"
"""What changes with the colours; the other rules look at the same page."""
PICTURES = Path(__file__).parent / "pictures"
FIELD_PX = 16
SHADE_MOST = 20
"""Of 255, by which a field may differ."""
FIELDS_MOST = 4
WIDTHS = (1280, 1024, 768, 390, 320)
"""Of a desk, a tablet lying and standing, a telephone."""
UNFOLD = "for (const folded of document.querySelectorAll('details')) folded.open = true"
TOO_WIDE = "document.documentElement.scrollWidth - document.documentElement.clientWidth"


class Checked(BrowserTest):
    """Looks at pages with a reader's and a narrow screen's eyes."""

    def check(self, *paths: str) -> None:
        for path in paths:
            # Without transitions: colours are looked at as they end up.
            self.page.emulate_media(color_scheme="light", reduced_motion="reduce")
            self.visit(path)
            self.page.evaluate(AXE.read_text())
            for scheme, rules in (("light", RULES), ("dark", IN_THE_DARK)):
                self.page.emulate_media(color_scheme=scheme)
                actual = self.page.evaluate(f"axe.run({rules})")["violations"]
                faults = [
                    f"{v['id']}: {v['nodes'][0]['target']} {v['nodes'][0]['failureSummary']}" for v in actual
                ]
                with self.subTest(path=path, scheme=scheme):
                    self.assertEqual(faults, [])
            self.page.emulate_media(color_scheme="light")
            self.nothing_is_too_wide(path)

    def nothing_is_too_wide(self, path: str) -> None:
        """No page scrolls sideways, folded or not."""
        for _ in range(2):
            for width in WIDTHS:
                self.page.set_viewport_size({"width": width, "height": 800})
                with self.subTest(path=path, width=width):
                    self.assertLessEqual(self.page.evaluate(TOO_WIDE), 0)
            self.page.evaluate(UNFOLD)
        self.page.set_viewport_size({"width": WIDTHS[0], "height": 800})


class EveryPage(permissions.Scene, Checked):
    """Every address that shows a page, in light and dark, on every screen: a class for each role, so that they run beside each other."""

    def setUp(self) -> None:
        super().setUp()
        self.fill()

    def look_at(self, role: str) -> None:
        paths = []
        for name, (methods, reached_by, about) in permissions.REACHES.items():
            roles = [one for one in ("teacher", "student", "head") if one in reached_by.split()]
            if "get" in methods and roles[:1] == [role] and name not in NO_PAGES:
                paths.append(self.path(name, about))
        self.sign_in(getattr(self, role).username)
        self.check(*(path for path in paths if self.is_page(path)))

    def is_page(self, path: str) -> bool:
        """Pieces of pages, files and ways to elsewhere have no head of their own."""
        answer = self.page.request.get(self.live_server_url + path, max_redirects=0)
        return (
            answer.status == 200 and "<html" in answer.text()[:200]
            if "html" in answer.headers.get("content-type", "")
            else False
        )


class PagesOfTeachersTest(EveryPage):
    def test_pages_of_teachers_have_no_barrier(self) -> None:
        self.look_at("teacher")


class PagesOfStudentsTest(EveryPage):
    def test_pages_of_students_have_no_barrier(self) -> None:
        self.look_at("student")


class PagesOfHeadsTest(EveryPage):
    def test_pages_of_heads_have_no_barrier(self) -> None:
        self.look_at("head")


NO_PAGES = frozenset({"words"})


class AccessTest(Checked):
    def setUp(self) -> None:
        super().setUp()
        self.teacher, self.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.exercise = factories.exercise(self.teacher)
        self.given = factories.assignment(self.exercise, school_class)
        self.take = factories.take(self.student, self.given)
        hand_in(self.student, self.take)

    def test_pages_outside_have_no_barrier(self) -> None:
        code = open_code(
            self.teacher, self.given.school_class, ends_at=timezone.now() + timedelta(days=1)
        ).code
        self.check(
            "/sign-in/", "/slip/", "/slip/ABCD-EFGH-JKLM/", "/password/reset/", "/join/", f"/join/{code}/"
        )

    @override_settings(DEBUG=True)
    def test_components_look_as_they_did_in_light_and_dark(self) -> None:
        self.check("/style/")
        for scheme in ("light", "dark"):
            self.page.emulate_media(color_scheme=scheme)
            self.visit("/style/")
            self.page.evaluate("document.fonts.ready")
            seen = BytesIO(self.page.screenshot(full_page=True, animations="disabled"))
            with self.subTest(scheme=scheme):
                self.assert_looks_like(Image.open(seen), PICTURES / f"style-{scheme}.png")

    def assert_looks_like(self, seen: Image.Image, known: Path) -> None:
        """Fields of the picture have the colour they had, on average: letters may be smoothed otherwise."""
        if not known.exists():
            known.parent.mkdir(exist_ok=True)
            seen.save(known, optimize=True)
            self.fail(f"there was no {known.name}: look at the one that was taken")
        size = (seen.width // FIELD_PX, seen.height // FIELD_PX)
        expected = Image.open(known).convert("L")
        self.assertEqual(seen.size, expected.size)
        fields = ImageChops.difference(
            seen.convert("L").resize(size, Image.Resampling.BOX), expected.resize(size, Image.Resampling.BOX)
        ).tobytes()
        self.assertLessEqual(sum(1 for one in fields if one > SHADE_MOST), FIELDS_MOST)

    def test_what_is_opened_on_the_bench_has_no_barrier(self) -> None:
        page = self.page
        self.sign_in(self.teacher.username)
        self.visit(f"/bench/{self.exercise.pk}/")
        page.locator("#work[data-ready=yes]").wait_for()
        page.evaluate(UNFOLD)
        page.locator("#notation .note").first.wait_for()
        page.evaluate(AXE.read_text())
        actual: list[str] = []

        def look(where: str) -> None:
            for v in page.evaluate(f"axe.run('{where}', {RULES})")["violations"]:
                actual.append(f"{where} {v['id']}: {v['nodes'][0]['target']}")

        page.get_by_role("button", name="Play it in").click()
        expect(page.locator("[data-play-in] [data-state]")).not_to_be_empty()
        look("#play-sheet")
        page.get_by_role("button", name="Grid of steps").click()
        page.locator("#grid table").wait_for()
        look("#grid-sheet")
        page.get_by_role("button", name="Labels shown").click()
        for tool in page.locator("[data-strip] [data-tool]").all():
            tool.click()
            page.locator(f"#leaf[data-tool={tool.get_attribute('data-tool')}]").wait_for()
            look("#leaf")
        page.locator("#bench-page").focus()
        page.keyboard.press("?")
        look("#bench-keys-list")
        page.keyboard.press("Escape")
        look("body")
        self.assertEqual(actual, [])

    def test_what_lies_folded_in_a_report_has_no_barrier(self) -> None:
        page = self.page
        self.sign_in(self.teacher.username)
        self.visit(f"/takes/{self.take.pk}/")
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "no")
        page.evaluate(UNFOLD)
        page.locator("#try").wait_for()
        page.locator("#notation .note").first.wait_for()
        self.click_note(3)
        page.locator("#note-name").wait_for()
        page.evaluate(AXE.read_text())
        actual = page.evaluate(f"axe.run({RULES})")["violations"]
        self.assertEqual([f"{v['id']}: {v['nodes'][0]['target']}" for v in actual], [])

    def test_students_pages_have_no_barrier(self) -> None:
        self.check("/sign-in/")
        self.sign_in(self.student.username)
        factories.allow(
            self.given, passes=2, keys=(1,), questions=("What was hard?",),
            to_show=(ToShow(skill=Skill.QUANTISED, in_words=InWords.OWN), ToShow(skill=Skill.REPEATED)),
        )  # fmt: skip
        other, stand = factories.take(self.student, self.given), f"/stand/{self.given.pk}/"
        stored = store_upload(self.student, "pier.mid", write_part(two_hands()))
        stored.store_contents(read_to_plain(stored.data))
        self.check(
            "/", stand, f"/takes/{self.take.pk}/", "/progress/", f"{stand}hand-in/", f"{stand}receipt/", f"{stand}elsewhere/",
            f"{stand}elsewhere/{stored.pk}/", f"/takes/{other.pk}/copy/", f"{stand}compare/?a={other.pk}&b={self.take.pk}",
        )  # fmt: skip

    def test_what_lies_folded_at_the_stand_has_no_barrier(self) -> None:
        page = self.page
        self.sign_in(self.student.username)
        factories.allow(self.given, allows_corrected_copies=True, passes=2)
        self.visit(f"/stand/{self.given.pk}/")
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.evaluate(UNFOLD)
        page.evaluate(
            "for (const hidden of document.querySelectorAll('[data-stand] [hidden]')) hidden.hidden = false"
        )
        page.evaluate(AXE.read_text())
        actual = page.evaluate(f"axe.run({RULES})")["violations"]
        self.assertEqual([f"{v['id']}: {v['nodes'][0]['target']}" for v in actual], [])

    def test_a_browser_without_midi_says_so_and_offers_the_others(self) -> None:
        page = self.new_page(midi=False)
        page.add_init_script("delete Navigator.prototype.requestMIDIAccess")
        self.sign_in(self.student.username, page)
        self.visit(f"/stand/{self.given.pk}/", page)
        # It begins with what is there; a device is asked for by choosing it.
        expect(page.get_by_label("Play on")).to_have_value("typing")
        page.get_by_label("Play on").select_option("midi")
        expect(page.locator("[data-answer]")).to_contain_text("no Web MIDI")
        page.get_by_label("Play on").select_option("screen")
        key = page.locator("[data-pitch='60']")
        expect(key).to_be_visible()
        key.dispatch_event("pointerdown", {"pointerId": 1, "bubbles": True})
        expect(page.locator("[data-answer]")).to_contain_text("C4")

    def test_signed_out_in_mid_work_one_signs_in_elsewhere_and_goes_on(self) -> None:
        page = self.page
        self.sign_in(self.teacher.username)
        self.visit(f"/bench/{self.exercise.pk}/")
        page.locator("#work[data-ready=yes]").wait_for()
        Session.objects.all().delete()
        page.locator("#bench-page").press("ArrowRight")
        dialog = page.get_by_role("dialog", name="You are signed out")
        expect(dialog).to_be_visible()
        self.assertEqual(page.get_by_label("Sign-in name").count(), 0)
        elsewhere = page.context.new_page()
        self.sign_in(self.teacher.username, elsewhere)
        dialog.get_by_role("button", name="Go on").click()
        expect(dialog).to_be_hidden()
        expect(page.locator("#picked")).to_contain_text("bar 1, beat 1")
        self.troubles = [one for one in self.troubles if "401" not in one]
