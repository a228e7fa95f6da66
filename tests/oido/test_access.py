"""Ways in: password, slip, letter, second factor; and what keeps others out."""

import re
from datetime import timedelta
from ipaddress import ip_network
from unittest.mock import patch

from django.contrib.sessions.models import Session
from django.core import mail
from django.test import Client, TestCase, override_settings
from django.utils import timezone
from django_otp.oath import TOTP
from django_otp.plugins.otp_totp.models import TOTPDevice

from oido.access import services
from oido.access.background import tidy
from oido.access.guesses import FORGET_AFTER, KNOWN_BROWSER, GuessKind, count_wrong
from oido.access.models import SignedIn, SignInCode, WrongGuesses
from oido.access.sessions import end_sessions
from oido.audit.models import Act
from oido.audit.services import remember
from oido.common.client_address import client_address
from oido.common.permissions import NotAllowed
from oido.jobs.models import Job
from oido.people.models import Membership, Role, School
from oido.post.models import Email
from oido.post.services import send
from oido.roster.joining import open_code
from oido.roster.people import change_role
from tests.oido import factories
from tests.oido.factories import PASSWORD

NEW = "lantern-orchard-7"
LOCMEM = "django.core.mail.backends.locmem.EmailBackend"


def token_of(device: TOTPDevice, *, steps: int = 0) -> str:
    totp = TOTP(device.bin_key, device.step, device.t0, device.digits, device.drift)
    totp.time = timezone.now().timestamp() + steps * device.step
    return f"{totp.token():06d}"


class AccessTest(TestCase):
    def setUp(self) -> None:
        self.head, self.teacher, self.student = factories.head(), factories.teacher(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])

    def sign_in(self, client: Client, username: str, password: str, **more):
        return client.post("/sign-in/", {"username": username, "password": password, **more})

    def test_a_slip_lets_its_person_in_once_to_choose_a_password(self) -> None:
        old = services.make_code(self.teacher, self.student)
        code = services.make_code(self.teacher, self.student)
        self.assertNotIn(code, str(list(SignInCode.everywhere.values())))
        typed = code.lower().replace("-", " ")
        client = Client()
        self.assertEqual(client.post("/slip/", {"code": old}).status_code, 422)
        self.assertContains(client.get(f"/slip/{code}/"), code)
        self.assertRedirects(client.post("/slip/", {"code": typed}), "/slip/password/")
        SignInCode.everywhere.filter(used_at=None).update(ends_at=timezone.now() - timedelta(seconds=1))
        self.assertEqual(client.get("/slip/password/").url, "/slip/")
        SignInCode.everywhere.filter(used_at=None).update(ends_at=timezone.now() + timedelta(days=1))
        common = client.post("/slip/password/", {"new_password1": "password1", "new_password2": "password1"})
        self.assertContains(common, "too common", status_code=422)
        chosen = {"new_password1": NEW, "new_password2": NEW}
        self.assertRedirects(client.post("/slip/password/", chosen), "/")
        self.assertEqual(client.post("/slip/password/", chosen).url, "/slip/")
        self.assertEqual(Client().post("/slip/", {"code": code}).status_code, 422)
        self.assertEqual(self.sign_in(Client(), self.student.username, NEW).status_code, 302)
        SignInCode.everywhere.update(used_at=None, ends_at=timezone.now() - timedelta(seconds=1))
        self.assertEqual(Client().post("/slip/", {"code": code}).status_code, 422)

    def test_who_may_make_slips_for_whom(self) -> None:
        colleague, other = factories.teacher(), factories.student()
        elsewhere = School.objects.create(name="Elsewhere")
        both = factories.student()
        self.school_class.students.add(both)
        Membership.objects.create(school=elsewhere, person=both, role=Role.STUDENT)
        for by, person, may in (
            (self.teacher, self.student, True), (self.teacher, other, False), (self.teacher, colleague, False),
            (colleague, self.student, False), (self.head, self.student, True), (self.head, self.teacher, True),
            (self.head, self.head, False), (self.student, other, False),
            (factories.head(at=elsewhere), self.student, False),
            # It would let somebody of another school in there as well.
            (self.head, both, False), (self.teacher, both, False),
        ):  # fmt: skip
            with self.subTest(by=by, person=person):
                if may:
                    services.make_code(by, person)
                else:
                    self.assertRaises(NotAllowed, services.make_code, by, person)

    def test_codes_and_passwords_cannot_be_guessed_on_and_on(self) -> None:
        answers = [self.sign_in(Client(), self.student.username, "wrong") for _ in range(9)]
        self.assertEqual([answers[0].status_code, answers[-1].status_code], [200, 429])
        self.assertEqual(self.sign_in(Client(), self.student.username, PASSWORD).status_code, 429)
        # Others behind the same address are not locked out with them.
        self.assertEqual(self.sign_in(Client(), self.teacher.username, PASSWORD).status_code, 302)
        self.assertEqual(Act.objects.filter(code="locked_out", actor=self.student).count(), 1)

    def test_a_wrong_code_makes_the_next_one_wait_and_a_right_one_is_let_through(self) -> None:
        code = services.make_code(self.teacher, self.student)
        joins = open_code(self.teacher, self.school_class, ends_at=timezone.now() + timedelta(days=1)).code
        waits = []
        for n in range(14):
            answer = Client().post("/slip/", {"code": f"AAAA-BBBB-{n:04d}"})
            waits.append(int(answer.get("Retry-After", 0)))
        self.assertEqual(waits, [0, 0, 0, 0, 0, 1, 2, 4, 8, 16, 32, 64, 128, 256])
        # Each kind of code waits for itself, and nobody with a right one waits.
        self.assertEqual(Client().get("/join/AAAA-0000/").status_code, 404)
        self.assertRedirects(Client().post("/join/", {"code": joins}), f"/join/{joins}/")
        self.assertRedirects(Client().post("/slip/", {"code": code}), "/slip/password/")
        WrongGuesses.objects.update(last_at=timezone.now() - FORGET_AFTER - timedelta(seconds=1))
        self.assertEqual(Client().post("/slip/", {"code": "AAAA-BBBB-CCCC"}).status_code, 422)

    def test_one_password_for_many_names_is_stopped_and_those_known_here_are_not(self) -> None:
        known, shared = Client(), {"REMOTE_ADDR": "198.51.100.7"}
        said = {"username": self.student.username, "password": PASSWORD}
        self.assertEqual(known.post("/sign-in/", said, **shared).status_code, 302)
        known.post("/sign-out/", **shared)
        guess = {"password": "spring-2026"}
        # The first wait is over in a second, and a busy machine takes longer for two requests.
        clock = patch("oido.access.guesses.timezone").start()
        self.addCleanup(patch.stopall)
        clock.now.return_value = timezone.now()
        answers = [
            Client().post("/sign-in/", {"username": f"pupil{n}", **guess}, **shared).status_code
            for n in range(60)
        ]
        self.assertEqual((answers[:31], set(answers[31:])), ([200] * 31, {429}))
        self.assertEqual(known.post("/sign-in/", said, **shared).status_code, 302)
        self.assertEqual(Client().post("/sign-in/", said, **shared).status_code, 429)
        self.assertEqual(Client().post("/sign-in/", said).status_code, 302)
        forged = Client()
        forged.cookies[KNOWN_BROWSER] = f"{self.student.pk}:x"
        self.assertEqual(forged.post("/sign-in/", said, **shared).status_code, 429)

    def test_two_wrong_codes_at_once_are_counted_twice(self) -> None:
        for _ in range(3):
            count_wrong(GuessKind.SLIP, "198.51.100.7")
        self.assertEqual(WrongGuesses.objects.get().count, 3)

    def test_a_proxys_header_counts_only_from_proxies_that_are_listed(self) -> None:
        proxies = (ip_network("10.0.0.0/8"), ip_network("192.0.2.1/32"))
        for peer, header, expected in (
            ("198.51.100.7", "203.0.113.9", "198.51.100.7"),
            ("10.0.0.2", "203.0.113.9", "203.0.113.9"),
            # What the client itself wrote stands on the left, and nobody vouches for it.
            ("10.0.0.2", "1.1.1.1, 203.0.113.9", "203.0.113.9"),
            ("10.0.0.2", "1.1.1.1, 203.0.113.9, 192.0.2.1", "203.0.113.9"),
            ("10.0.0.2", "", "10.0.0.2"),
            ("10.0.0.2", "nonsense", "10.0.0.2"),
        ):
            with self.subTest(peer=peer, header=header):
                self.assertEqual(client_address(peer, header, proxies), expected)
        header = {"x-forwarded-for": "203.0.113.9"}
        for trusted, seen in (((), "127.0.0.1"), ((ip_network("127.0.0.1/32"),), "203.0.113.9")):
            with override_settings(TRUSTED_PROXIES=trusted):
                Client(headers=header).post("/slip/", {"code": "AAAA-BBBB-CCCC"})
            self.assertTrue(WrongGuesses.objects.filter(source=seen).exists())

    def test_switching_the_second_factor_off_asks_for_the_password(self) -> None:
        TOTPDevice.objects.create(user=self.teacher, confirmed=True)
        self.client.force_login(self.teacher)
        for said in ({}, {"current_password": "wrong"}):
            self.assertEqual(self.client.post("/account/second/off/", said).status_code, 422)
        self.assertIsNotNone(services.second_factor_of(self.teacher))
        self.client.post("/account/second/off/", {"current_password": PASSWORD})
        self.assertIsNone(services.second_factor_of(self.teacher))

    @override_settings(EMAIL_BACKEND=LOCMEM)
    def test_a_new_password_by_mail(self) -> None:
        self.teacher.email = "ines@school.example"
        self.teacher.save()
        answers = []
        for email in ("nobody@school.example", "INES@school.example", "ines@school.example"):
            with self.captureOnCommitCallbacks(execute=True):
                answers.append(Client().post("/password/reset/", {"email": email}))
        self.assertEqual({answer.content for answer in answers[:1]}, {answers[1].content})
        factories.work_all()
        letter = Email.objects.get()
        self.assertEqual((letter.to, letter.state), ("ines@school.example", "sent"))
        [message] = mail.outbox
        link = re.search(r"http://127.0.0.1:8000(/password/reset/\S+)", message.body)[1]
        client = Client()
        self.assertEqual(client.get(link).status_code, 200)
        self.assertRedirects(client.post(link, {"new_password1": NEW, "new_password2": NEW}), "/")
        self.assertEqual(Client().get(link).status_code, 410)
        # The outbox is its head's; where there is no mail server, the letter can be read there and passed on.
        self.client.force_login(self.head)
        self.assertContains(self.client.get("/school/outbox/"), link)
        with override_settings(MAIL_GOES_TO_FILES=False):
            Email.objects.update(state="waiting", body=message.body)
            self.assertTrue(Job.objects.filter(kind="post.send").exists())
            send(lambda *_: None, letter=letter.pk)
        self.assertEqual(Email.objects.get().body, "")

    @override_settings(EMAIL_BACKEND="tests.oido.test_access.Refusing")
    def test_a_letter_that_cannot_be_sent_says_so_and_is_sent_again(self) -> None:
        self.student.email = "maren@school.example"
        self.student.save()
        with self.captureOnCommitCallbacks(execute=True):
            Client().post("/password/reset/", {"email": "maren@school.example"})
        factories.work_all()
        letter = Email.objects.get()
        self.assertEqual((letter.state, letter.problem), ("failed", "no server"))
        self.client.force_login(self.head)
        self.assertContains(self.client.get("/school/outbox/"), "no server")
        with override_settings(EMAIL_BACKEND=LOCMEM), self.captureOnCommitCallbacks(execute=True):
            self.client.post(f"/school/outbox/{letter.pk}/again/")
            factories.work_all()
        self.assertEqual(Email.objects.get().state, "sent")

    def test_sessions_are_listed_and_ended(self) -> None:
        here, there = (
            Client(headers={"user-agent": "Kitchen tablet"}),
            Client(headers={"user-agent": "Phone"}),
        )
        for client in (here, there):
            self.sign_in(client, self.student.username, PASSWORD)
        page = here.get("/account/")
        for words in ("Kitchen tablet", "Phone", "Sign out there"):
            self.assertContains(page, words)
        phone = SignedIn.objects.get(browser="Phone")
        self.assertEqual(
            here.post(
                f"/account/sessions/{SignedIn.objects.get(browser='Kitchen tablet').pk}/end/"
            ).status_code,
            404,
        )
        self.client.force_login(self.teacher)
        self.assertEqual(self.client.post(f"/account/sessions/{phone.pk}/end/").status_code, 404)
        here.post(f"/account/sessions/{phone.pk}/end/")
        self.assertEqual([c.get("/").status_code for c in (here, there)], [200, 302])
        self.sign_in(there, self.student.username, PASSWORD)
        changed = here.post(
            "/password/", {"old_password": PASSWORD, "new_password1": NEW, "new_password2": NEW}
        )
        self.assertEqual(changed.status_code, 302)
        self.assertEqual([c.get("/").status_code for c in (here, there)], [200, 302])
        self.assertContains(here.get("/account/"), "Kitchen tablet")
        here.post("/sign-out/")
        self.assertFalse(SignedIn.objects.filter(person=self.student).exists())

    def test_wrong_old_passwords_change_nothing(self) -> None:
        self.client.force_login(self.student)
        said = {"old_password": "no", "new_password1": NEW, "new_password2": NEW}
        self.assertEqual(self.client.post("/password/", said).status_code, 422)
        self.student.refresh_from_db()
        self.assertTrue(self.student.check_password(PASSWORD))

    def test_a_second_factor_is_asked_for_once_it_is_on(self) -> None:
        self.client.force_login(self.student)
        self.assertEqual(self.client.get("/account/second/").status_code, 403)
        self.client.force_login(self.teacher)
        self.client.get("/account/second/")
        device = TOTPDevice.objects.get(user=self.teacher)
        self.assertEqual(self.client.post("/account/second/", {"token": "000000"}).status_code, 422)
        TOTPDevice.objects.update(throttling_failure_count=0)
        page = self.client.post("/account/second/", {"token": token_of(device)})
        spare = re.findall(r"<li><code>(\w+)</code>", page.content.decode())
        self.assertEqual(len(spare), 8)
        client = Client()
        asked = self.sign_in(client, self.teacher.username, PASSWORD, next="/classes/")
        self.assertRedirects(asked, "/sign-in/second/")
        self.assertEqual(client.get("/").status_code, 302)
        self.assertEqual(client.post("/sign-in/second/", {"token": "123456"}).status_code, 422)
        TOTPDevice.objects.update(throttling_failure_count=0)
        # The code that switched it on is used up: the next one counts.
        self.assertEqual(client.post("/sign-in/second/", {"token": token_of(device)}).status_code, 422)
        TOTPDevice.objects.update(throttling_failure_count=0)
        self.assertEqual(
            client.post("/sign-in/second/", {"token": token_of(device, steps=1)}).url, "/classes/"
        )
        other = Client()
        self.sign_in(other, self.teacher.username, PASSWORD)
        self.assertEqual(other.post("/sign-in/second/", {"token": spare[0]}).url, "/")
        again = Client()
        self.sign_in(again, self.teacher.username, PASSWORD)
        self.assertEqual(again.post("/sign-in/second/", {"token": spare[0]}).status_code, 422)
        # A slip changes the password and does not go round it.
        code = services.make_code(self.head, self.teacher)
        again = Client()
        again.post("/slip/", {"code": code})
        self.assertEqual(
            again.post("/slip/password/", {"new_password1": NEW, "new_password2": NEW}).url,
            "/sign-in/second/",
        )
        self.client.force_login(self.head)
        self.client.post(f"/people/{self.teacher.pk}/second/")
        self.assertEqual(self.sign_in(Client(), self.teacher.username, NEW).url, "/")

    def test_after_signing_in_nobody_is_led_out_of_the_site(self) -> None:
        for url in (
            "https://elsewhere.example/",
            "//elsewhere.example/",
            "/\\elsewhere.example",
            "javascript:alert(1)",
            "/sign-out/",
        ):
            with self.subTest(url=url):
                self.assertEqual(self.sign_in(Client(), self.student.username, PASSWORD, next=url).url, "/")

    def test_what_has_expired_is_tidied_away(self) -> None:
        client = Client()
        self.sign_in(client, self.student.username, PASSWORD)
        Session.objects.update(expire_date=timezone.now() - timedelta(days=1))
        SignedIn.objects.update(seen_at=timezone.now() - timedelta(days=3))
        tidy(lambda *_: None)
        self.assertEqual((Session.objects.count(), SignedIn.objects.count()), (0, 0))

    def test_ending_sessions_ends_those_of_one_person(self) -> None:
        clients = {who: Client() for who in (self.student, self.teacher)}
        for who, client in clients.items():
            self.sign_in(client, who.username, PASSWORD)
        end_sessions(self.student)
        self.assertEqual([client.get("/").status_code for client in clients.values()], [302, 200])


class Refusing:
    """A mail server that is not there."""

    def __init__(self, **options) -> None:
        pass

    def send_messages(self, messages) -> int:
        raise OSError("no server")


class RightsTest(TestCase):
    """Sessions go with the rights with which they were opened."""

    def setUp(self) -> None:
        self.head, self.teacher, self.student = factories.head(), factories.teacher(), factories.student()

    def test_a_changed_role_ends_the_persons_sessions(self) -> None:
        self.client.force_login(self.teacher)
        self.assertEqual(self.client.get("/exercises/").status_code, 200)
        change_role(self.head, self.teacher, Role.STUDENT)
        self.assertRedirects(self.client.get("/exercises/"), "/sign-in/?next=/exercises/")

    def test_a_second_step_that_a_head_removes_ends_the_persons_sessions(self) -> None:
        TOTPDevice.objects.create(user=self.teacher, name="app")
        self.client.force_login(self.teacher)
        services.remove_second_factor(self.teacher, by=self.head)
        self.assertEqual(self.client.get("/account/").status_code, 302)

    def test_staff_of_a_school_that_requires_two_steps_reach_nothing_before_they_are_set_up(self) -> None:
        School.objects.update(staff_need_two_step=True)
        self.client.force_login(self.student)
        self.assertEqual(self.client.get("/").status_code, 200)
        self.client.force_login(self.teacher)
        self.assertEqual(self.client.get("/exercises/").url, "/account/second/")
        self.assertContains(self.client.get("/account/second/"), "Your school requires two-step sign-in")
        self.assertEqual(self.client.post("/exercises/new/").status_code, 403)
        elsewhere = Client()
        elsewhere.force_login(self.teacher)
        device = TOTPDevice.objects.get(user=self.teacher)
        self.client.post("/account/second/", {"token": token_of(device)})
        for client in (self.client, elsewhere):
            self.assertEqual(client.get("/exercises/").status_code, 200)
        self.assertContains(self.client.get("/account/"), "Your school requires it.")
        answer = self.client.post("/account/second/off/", {"current_password": PASSWORD})
        self.assertEqual(answer.status_code, 403)
        self.assertTrue(TOTPDevice.objects.filter(user=self.teacher, confirmed=True).exists())


class TrailTest(TestCase):
    def test_addresses_go_first_and_lines_later(self) -> None:
        head = factories.head()
        for months in (1, 7, 37):
            remember("school_changed", actor=head)
            newest = Act.everywhere.order_by("-pk").first()
            Act.everywhere.filter(pk=newest.pk).update(
                at=timezone.now() - timedelta(days=31 * months), address="192.0.2.1"
            )
        tidy(lambda done, total: None)
        kept = Act.everywhere.filter(code="school_changed").order_by("-at")
        self.assertEqual([act.address for act in kept], ["192.0.2.1", None])
