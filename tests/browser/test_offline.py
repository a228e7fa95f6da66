"""A page that says that Oido cannot be reached, for browsers that have been here before."""

from playwright.sync_api import expect

from oido.people.models import User
from tests.browser.base import BrowserTest
from tests.oido import factories

CONTROLLED = "navigator.serviceWorker.ready.then(() => caches.match('/offline/')).then(Boolean)"


class OfflineTest(BrowserTest):
    def test_a_browser_without_a_network_shows_oidos_own_page_in_its_readers_language(self) -> None:
        student = factories.student()
        User.objects.filter(pk=student.pk).update(language="es")
        page = self.new_page(service_workers="allow")
        self.sign_in(student.username, page)
        self.visit("/account/", page)
        page.wait_for_function(CONTROLLED)
        page.reload()
        page.context.set_offline(True)
        self.visit("/progress/", page)
        expect(page.get_by_role("heading", name="No tienes conexión")).to_be_visible()
        self.assertEqual(page.evaluate("document.styleSheets.length"), 2)
        page.context.set_offline(False)
        page.get_by_role("link", name="Intentarlo de nuevo").click()
        expect(page.get_by_role("heading", name="Tu progreso")).to_be_visible()
        self.troubles.clear()
