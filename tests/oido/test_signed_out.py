"""Signed out in mid-work: nothing is lost, and nobody is led to an address that cannot be looked at."""

from django.test import Client, TestCase

from oido.common.methods import can_be_looked_at
from tests.oido import factories


class SignedOutTest(TestCase):
    def setUp(self) -> None:
        self.teacher = factories.teacher()
        self.exercise = factories.exercise(self.teacher)
        self.rules = f"/exercises/{self.exercise.pk}/rules/takes/"

    def test_scripts_are_told_in_a_word(self) -> None:
        for headers in ({"HX-Request": "true"}, {"Sec-Fetch-Mode": "cors"}):
            for method in (self.client.get, self.client.post):
                answer = method("/marking/", headers=headers)
                self.assertEqual(
                    (answer.status_code, answer["Content-Type"]), (401, "text/plain; charset=utf-8")
                )
        sent = self.client.post("/stand/1/takes/", b"{}", content_type="application/json")
        self.assertEqual(sent.status_code, 401)

    def test_a_stale_token_is_as_good_as_signed_out_to_a_script(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.teacher)
        for mode, status in (("cors", 401), ("navigate", 403)):
            self.assertEqual(client.post("/marking/", headers={"Sec-Fetch-Mode": mode}).status_code, status)

    def test_a_form_is_kept_until_it_can_be_sent_again(self) -> None:
        page = self.client.post(self.rules, {"attempts": "3", "note": "<b>two</b>", "sound": ["a", "b"]})
        self.assertEqual(page.status_code, 401)
        self.assertContains(page, 'name="attempts" value="3"', status_code=401)
        self.assertContains(page, "&lt;b&gt;two&lt;/b&gt;", status_code=401)
        self.assertContains(page, 'name="sound"', count=2, status_code=401)
        self.assertContains(page, f'action="{self.rules}"', status_code=401)

    def test_after_signing_in_one_stands_on_a_page(self) -> None:
        take = "8c0a8b5e-8d55-4a83-a1f7-0c2f2b2a4d12"
        for path, lands in (
            ("/marking/", "/marking/"), (self.rules, self.rules), (f"/takes/{take}/accept/", "/"), ("/sign-out/", "/"),
            ("/nowhere/", "/"), ("https://elsewhere.test/", "/"), ("//elsewhere.test/", "/"), ("/marking/?state=all", "/marking/?state=all"),
        ):  # fmt: skip
            client = Client()
            answer = client.post(
                "/sign-in/", {"username": self.teacher.username, "password": factories.PASSWORD, "next": path}
            )
            self.assertRedirects(answer, lands, fetch_redirect_response=False)
            self.assertNotEqual(client.get(answer.url).status_code, 405)
            if path.startswith("/") and not path.startswith("//") and path != "/nowhere/":
                asked = Client().get(path)
                wanted = path if can_be_looked_at(path) else "/"
                self.assertEqual(asked.status_code, 302)
                self.assertIn("next=" + wanted.replace("?", "%3F").replace("=", "%3D"), asked.url)
