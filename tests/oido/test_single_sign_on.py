"""Signing in through the school's own service, against a stand-in for it."""

from django.test import TestCase, override_settings
from joserfc.jwk import RSAKey

from oido.access.models import Identity, SignedIn
from oido.audit.models import Act
from oido.config.env import SignInService
from oido.people.models import Membership, Role, School, User
from oido.roster.people import leave_school
from tests.oido import factories
from tests.oido.identity_provider import CLIENT_ID, CLIENT_SECRET, IdentityProvider

MINA = {
    "sub": "Ab1",
    "given_name": "Mina",
    "family_name": "Holt",
    "email": "mina@school.example",
    "email_verified": True,
}


class SingleSignOnTest(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.provider = IdentityProvider()
        cls.addClassCleanup(cls.provider.stop)
        service = SignInService(
            issuer=cls.provider.issuer, client_id=CLIENT_ID, client_secret=CLIENT_SECRET, name="Harbour account", school="",
            roles_claim="realm.roles", head_roles=("heads",), teacher_roles=("staff", "cover"), student_roles=("pupils",),
        )  # fmt: skip
        settings = override_settings(SIGN_IN_SERVICE=service, OWN_ADDRESS="http://testserver")
        settings.enable()
        cls.addClassCleanup(settings.disable)

    def setUp(self) -> None:
        self.head = factories.head()
        self.provider.signing_key = self.provider.key

    def sign_in(self, roles: object = ("pupils",), *, wanted: str = "", **claims: object):
        """Go there and back with these claims; return the last answer."""
        self.provider.claims = {
            **MINA,
            "realm": {"roles": roles if isinstance(roles, str) else list(roles)},
            **claims,
        }
        there = self.client.get("/sign-in/school/", {"next": wanted})
        self.assertTrue(there.url.startswith(f"{self.provider.issuer}/authorize?"), there.url)
        return self.client.get(self.provider.consent(there.url))

    def test_a_new_person_is_added_with_the_role_of_their_claims_and_found_again(self) -> None:
        self.assertContains(self.client.get("/sign-in/?next=/account/"), "Sign in with Harbour account")
        self.assertRedirects(self.sign_in(wanted="/account/"), "/account/")
        person = User.objects.get(first_name="Mina")
        self.assertEqual((person.username, person.membership.role), ("mina.holt", Role.STUDENT))
        self.assertFalse(person.has_usable_password())
        self.client.logout()
        self.assertRedirects(
            self.sign_in(given_name="Wilhelmina", email="other@school.example"), "/", target_status_code=200
        )
        self.assertEqual(User.objects.filter(last_name="Holt").count(), 1)
        # The code is of use to nobody who has not begun here: PKCE, and a secret of Oido's own.
        self.assertTrue(self.provider.token_requests[-1]["code_verifier"][0])

    def test_capitals_tell_subjects_apart(self) -> None:
        self.sign_in(sub="Ab1")
        self.client.logout()
        self.sign_in(sub="aB1", email="another@school.example")
        self.assertEqual(Identity.objects.values("person").distinct().count(), 2)

    def test_a_member_is_known_by_a_verified_address_alone(self) -> None:
        known = factories.student()
        User.objects.filter(pk=known.pk).update(email=MINA["email"])
        self.sign_in(email_verified=False)
        self.assertFalse(known.identities.exists())
        self.client.logout()
        self.sign_in(sub="another")
        self.assertTrue(known.identities.exists())
        # Once an account is theirs, no other account of the service gets in as them.
        self.client.logout()
        self.sign_in(sub="a third")
        self.assertEqual(known.identities.count(), 1)

    def test_roles_follow_the_claims_and_end_sessions_with_the_old_rights(self) -> None:
        self.sign_in(["staff", "pupils"])
        person = User.objects.get(first_name="Mina")
        self.assertEqual(person.membership.role, Role.TEACHER)
        elsewhere = SignedIn.objects.get(person=person).session_key
        self.client.cookies.clear()
        self.sign_in("pupils")
        self.assertEqual(Membership.everywhere.get(person=person).role, Role.STUDENT)
        self.assertFalse(SignedIn.objects.filter(session_key=elsewhere).exists())
        self.assertTrue(Act.everywhere.filter(code="role_followed", actor=person).exists())

    def test_the_last_head_stays_head(self) -> None:
        User.objects.filter(pk=self.head.pk).update(email=MINA["email"])
        with self.assertLogs("oido.roster.people", level="WARNING"):
            self.sign_in("staff")
        self.assertEqual(Membership.everywhere.get(person=self.head).role, Role.HEAD)

    def test_people_who_may_not_come_in_are_told_why(self) -> None:
        self.sign_in()
        left = User.objects.get(first_name="Mina")
        with left.school.within():
            leave_school(self.head, left)
        self.client.logout()
        for claims, sentence in (
            ({}, "no longer a member"),
            ({"sub": "new", "realm": {}}, "whether you are a head, a teacher or a student"),
            ({"sub": "new", "realm": {"roles": 7}}, "whether you are a head, a teacher or a student"),
            ({"sub": "x" * 256}, "did not say who you are"),
        ):
            with self.subTest(claims), self.assertLogs("oido.roster.views.single_sign_on", level="WARNING"):
                self.assertContains(self.sign_in(**claims), sentence, status_code=403)
        School.objects.create(name="Another school")
        with self.assertLogs("oido.roster.views.single_sign_on", level="WARNING"):
            self.assertContains(self.sign_in(sub="new"), "which school", status_code=403)
        self.assertFalse(User.objects.filter(identities__subject="new").exists())

    def test_what_the_service_did_not_sign_for_this_request_is_refused(self) -> None:
        cases = (
            {"nonce": "of another request"},
            {"aud": "another client"},
            {"iss": "http://elsewhere"},
            {"exp": 1},
        )
        for claims in cases:
            with self.subTest(claims), self.assertLogs("oido.roster.views.single_sign_on", level="WARNING"):
                self.assertEqual(self.sign_in(**claims).status_code, 403)
        self.provider.signing_key = RSAKey.generate_key(2048, {"kid": "one"})
        with self.assertLogs("oido.roster.views.single_sign_on", level="WARNING"):
            self.assertEqual(self.sign_in().status_code, 403)
        for query in ("", "?code=a-code&state=made-up", "?error=access_denied"):
            with self.subTest(query), self.assertLogs("oido.roster.views.single_sign_on", level="WARNING"):
                self.assertEqual(self.client.get(f"/sign-in/school/back/{query}").status_code, 403)
        self.assertFalse(Identity.objects.exists())

    def test_nobody_is_led_out_of_the_site(self) -> None:
        for wanted in ("https://evil.example/", "//evil.example", "/nowhere/"):
            self.assertEqual(self.sign_in(wanted=wanted).url, "/")
            self.client.logout()

    def test_without_a_service_there_is_no_button_and_no_address(self) -> None:
        with override_settings(SIGN_IN_SERVICE=None):
            self.assertNotContains(self.client.get("/sign-in/"), "Sign in with Harbour")
            self.assertEqual(self.client.get("/sign-in/school/").status_code, 404)
