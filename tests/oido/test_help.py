"""The guides inside Oido: reached from every page, searched, with pictures and links that lead somewhere."""

import re

from django.contrib.staticfiles import finders
from django.test import TestCase

from oido.help.guides import read_guides, search
from oido.help.views import ABOUT
from tests.oido import factories


class HelpTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        factories.school_class(teachers=[self.teacher], students=[self.student])

    def test_every_page_leads_to_the_guide_that_explains_it(self) -> None:
        for person, page, guide in (
            (self.teacher, "/exercises/", "term"),
            (self.teacher, "/bench/new/", "bench"),
            (self.teacher, "/marking/", "report"),
            (self.teacher, "/people/", "school"),
            (self.student, "/", "student"),
        ):
            self.client.force_login(person)
            link = re.search(r'href="(/help/\?page=[^"]*)"', self.client.get(page).content.decode())[1]
            self.assertRedirects(self.client.get(link), f"/help/{guide}/")
        for elsewhere in ("", "nowhere", "//evil.example/", "/help/"):
            self.client.force_login(self.teacher)
            self.assertEqual(self.client.get("/help/", {"page": elsewhere}).status_code, 200)

    def test_pictures_and_links_of_all_guides_lead_somewhere(self) -> None:
        self.client.force_login(self.teacher)
        self.assertEqual(set(read_guides()), set(ABOUT))
        for slug in read_guides():
            page = self.client.get(f"/help/{slug}/").content.decode()
            for picture in re.findall(r'<img src="/static/([^"]+)"', page):
                self.assertIsNotNone(finders.find(picture), picture)
            anchors = set(re.findall(r'id="([^"]+)"', page))
            self.assertLessEqual(set(re.findall(r'href="#([^"]+)"', page)), anchors)
            for other, anchor in re.findall(r'href="\.\./(\w+)/#([^"]+)"', page):
                self.assertIn(anchor, [section.anchor for section in read_guides()[other].sections])
            self.assertNotIn(".md", re.findall(r'href="[^"]*"', page))

    def test_students_see_their_own_guides(self) -> None:
        self.client.force_login(self.student)
        self.assertEqual(self.client.get("/help/operating/").status_code, 404)
        self.assertNotContains(self.client.get("/help/?q=backup"), "Operating")
        self.assertNotContains(self.client.get("/help/"), "Operating Oido")

    def test_the_search_wants_all_words_and_prefers_titles(self) -> None:
        guides = read_guides().values()
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
