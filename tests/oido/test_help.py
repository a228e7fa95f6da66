"""The guides inside Oido: reached from every page, searched, with pictures and links that lead somewhere."""

import re

from django.contrib.staticfiles import finders
from django.http import HttpResponse
from django.template.loader import get_template
from django.test import TestCase

from ear.error_texts import ERROR_TEXTS
from oido.common.explained import PARAGRAPHS
from oido.help.guides import read_guides, search
from oido.help.pages import STAFF_PAGES, STUDENT_PAGES
from oido.help.views import ABOUT, FOR_STAFF, FOR_STUDENTS
from oido.people.models import User
from tests.oido import factories
from tests.oido.test_endpoints import patterns
from tests.oido.test_words import texts


class HelpTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        factories.school_class(teachers=[self.teacher], students=[self.student])

    def help_of(self, person: User, page: str) -> HttpResponse:
        self.client.force_login(person)
        link = re.search(r'href="(/help/\?page=[^"]*)"', self.client.get(page).content.decode())[1]
        return self.client.get(link)

    def test_every_page_leads_to_its_help_or_to_the_guide_that_explains_it(self) -> None:
        for page, guide in (("/exercises/", "term"), ("/bench/new/", "bench"), ("/people/", "school")):
            self.assertRedirects(self.help_of(self.teacher, page), f"/help/{guide}/")
        self.assertRedirects(self.help_of(self.student, "/account/"), "/help/student/")
        self.assertContains(self.help_of(self.teacher, "/marking/"), "Can I undo a release?")
        self.assertContains(self.help_of(self.student, "/"), "Who sees how much I practise?")
        self.assertContains(self.help_of(self.teacher, "/"), 'href="/">back to the page')
        for elsewhere in ("", "nowhere", "//evil.example/", "/help/"):
            self.client.force_login(self.teacher)
            self.assertEqual(self.client.get("/help/", {"page": elsewhere}).status_code, 200)

    def test_the_help_of_a_page_is_whole(self) -> None:
        """Three questions each, signs that are drawn, names of pages that exist, and a place in a guide its reader may open."""
        names = {pattern.name for _route, pattern in patterns()}
        drawn = set(re.findall(r'drawing == "(\w+)"', get_template("help/_sign.html").template.source))
        for pages, guides in ((STAFF_PAGES, FOR_STAFF), (STUDENT_PAGES, FOR_STUDENTS)):
            for name, help_of_page in pages.items():
                with self.subTest(name):
                    self.assertIn(name, names)
                    self.assertEqual(len(help_of_page.questions), 3)
                    self.assertLessEqual({sign.drawing for sign in help_of_page.signs}, drawn)
                    self.assertIn(help_of_page.guide, guides)
                    anchors = [
                        section.anchor for section in read_guides("en-gb")[help_of_page.guide].sections
                    ]
                    self.assertIn(help_of_page.anchor, anchors)

    def test_what_the_help_of_a_page_quotes_stands_on_a_page(self) -> None:
        shown = "\n".join(
            text for text, place in texts() if not place.startswith(("src/oido/help/", "docs/"))
        )
        for pages in (STAFF_PAGES, STUDENT_PAGES):
            for help_of_page in pages.values():
                for answer in (str(text) for pair in help_of_page.questions for text in pair):
                    for label in re.findall("“([^”]+)”", answer):
                        with self.subTest(label):
                            self.assertIn(label.split(" …")[0], shown)

    def test_pictures_and_links_of_all_guides_lead_somewhere(self) -> None:
        self.client.force_login(self.teacher)
        self.assertEqual(set(read_guides("en-gb")), set(ABOUT))
        for slug in read_guides("en-gb"):
            page = self.client.get(f"/help/{slug}/").content.decode()
            for picture in re.findall(r'<img src="/static/([^"]+)"', page):
                self.assertIsNotNone(finders.find(picture), picture)
            anchors = set(re.findall(r'id="([^"]+)"', page))
            self.assertLessEqual(set(re.findall(r'href="#([^"]+)"', page)), anchors)
            for other, anchor in re.findall(r'href="\.\./(\w+)/#([^"]+)"', page):
                self.assertIn(anchor, [section.anchor for section in read_guides("en-gb")[other].sections])
            self.assertNotIn(".md", re.findall(r'href="[^"]*"', page))

    def test_errors_lead_to_the_paragraph_that_explains_them(self) -> None:
        guides = read_guides("en-gb")
        for code, (guide, section) in PARAGRAPHS.items():
            with self.subTest(code):
                self.assertIn(code, {*ERROR_TEXTS, "line_of_text"})
                self.assertIn(section, [one.anchor for one in guides[guide].sections])
        self.client.force_login(self.teacher)
        exercise = factories.exercise(self.teacher)
        tool = f"/bench/{exercise.pk}/do/text/"
        answer = self.client.post(tool, {"text": "1 R: C4/4 <b>"})
        self.assertContains(answer, 'href="/help/bench/#the-part-as-text"', status_code=answer.status_code)
        self.assertContains(answer, "&lt;b&gt;", status_code=answer.status_code)

    def test_students_see_their_own_guides(self) -> None:
        self.client.force_login(self.student)
        self.assertEqual(self.client.get("/help/operating/").status_code, 404)
        self.assertNotContains(self.client.get("/help/?q=backup"), "Operating")
        self.assertNotContains(self.client.get("/help/"), "Operating Oido")

    def test_the_search_wants_all_words_and_prefers_titles(self) -> None:
        guides = read_guides("en-gb").values()
        hits = search("latency", guides)
        self.assertTrue(hits)
        self.assertIn("latency", hits[0].snippet.casefold() + hits[0].section.title.casefold())
        for hit in search("pedal bend", guides):
            text = f"{hit.section.title} {hit.section.text}".casefold()
            self.assertTrue("pedal" in text and "bend" in text)
        titles = [("scale" in hit.section.title.casefold()) for hit in search("scale", guides)]
        self.assertEqual(titles, sorted(titles, reverse=True))
        self.assertEqual((search("", guides), search("xyzzy", guides)), ([], []))
        self.client.force_login(self.teacher)
        self.assertContains(self.client.get("/help/?q=xyzzy"), "Nothing found")
