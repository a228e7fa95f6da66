"""The numbered steps of the guides, followed as they are written."""

import re
from collections.abc import Iterator
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from oido.assignments.models import Assignment
from oido.people.models import User
from tests.browser.base import BrowserTest
from tests.oido import factories

GUIDE = Path(__file__).resolve().parents[2] / "docs" / "guide"
STEP = re.compile(r"^\d+\. (.+(?:\n  +.+)*)", re.MULTILINE)
ACT = re.compile(
    r"`(?P<text>[^`]+)` in \*(?P<field>[^*]+)\*|[Yy]ou see “(?P<seen>[^”]+)”|\*(?P<label>[^*]+)\*"
)
"""What a reader is told to do: type a text in a field, look for a text, or click what has a label."""


def steps_of(guide: str) -> list[str]:
    return [match[1] for match in STEP.finditer((GUIDE / guide).read_text())]


def with_label(page: Page, label: str) -> Iterator[tuple[Locator, bool]]:
    """Yield what a reader could take for the thing with this label, the likeliest first, and whether it is ticked."""
    for role in ("link", "button", "radio", "checkbox"):
        yield page.get_by_role(role, name=label, exact=True), role in ("radio", "checkbox")
    yield page.get_by_text(label, exact=True), False


class GuidesTest(BrowserTest):
    def follow(self, guide: str) -> None:
        steps = steps_of(guide)
        self.assertGreater(len(steps), 2, guide)
        for step in steps:
            for act in ACT.finditer(step):
                if act["field"]:
                    self.page.get_by_label(act["field"], exact=True).fill(act["text"])
                elif act["seen"]:
                    expect(self.page.locator("main")).to_contain_text(act["seen"])
                else:
                    self.click(act["label"], step)

    def click(self, label: str, step: str) -> None:
        for candidates, is_ticked in with_label(self.page, label):
            visible = [each for each in candidates.all() if each.is_visible()]
            if visible:
                visible[0].check() if is_ticked else visible[0].click()
                # The answer may be a new page or a piece of this one: either way its requests come to an end.
                self.page.wait_for_load_state("networkidle")
                return
        self.fail(f"nothing on {self.page.url} has the label “{label}”: {step}")

    def test_every_numbered_step_can_be_followed(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[teacher], students=[student])
        school_class.name = "Tuesday Keys"
        school_class.save()
        self.sign_in(teacher.username)
        self.follow("school.md")
        self.assertTrue(User.objects.filter(first_name="Ada", classes_attended=school_class).exists())
        self.follow("bench.md")
        self.follow("term.md")
        given = Assignment.objects.get(school_class=school_class, exercise__title="First tune")
        self.assertEqual(len(given.exercise.part_in_force.read().notes), 5)
        take = factories.handed_in(student, given)
        self.follow("report.md")
        take.sheet.refresh_from_db()
        self.assertEqual(take.sheet.released_by, teacher)
        followed = {"school.md", "bench.md", "term.md", "report.md"}
        # Its steps are for a shell.
        followed.add("operating.md")
        self.assertEqual({path.name for path in GUIDE.glob("*.md") if steps_of(path.name)}, followed)
