"""An instance without a school, and the first steps."""

from django.core.management import call_command
from django.db import connection
from django.test import Client, TestCase, TransactionTestCase

from oido.exercises.models import Exercise
from oido.opening.models import SetupCode
from oido.opening.services import WrongCode, new_setup_code, set_up
from oido.people.models import Membership, School, SchoolClass, User
from tests.oido import factories

PASSWORD = "lantern-orchard-7"
SAID = {
    "school": "Quayside Music", "language": "en-gb", "time_zone": "Europe/Lisbon", "first": "Odile", "last": "Marsh", "username": "odile",
    "email": "",
}  # fmt: skip
FORM = {**SAID, "password1": PASSWORD, "password2": PASSWORD}


class SettingUpTest(TestCase):
    def test_every_page_leads_to_the_setup_until_there_is_a_school(self) -> None:
        for url in ("/", "/sign-in/", "/slip/", "/exercises/"):
            self.assertRedirects(Client().get(url), "/setup/")
        code = new_setup_code()
        client = Client()
        self.assertContains(
            client.post("/setup/", {**FORM, "code": "nonsense"}), "not the code", status_code=422
        )
        for wrong in ({"password2": "other"}, {"username": "a b"}, {"time_zone": "Mars"}, {"school": ""}):
            self.assertEqual(client.post("/setup/", {**FORM, "code": code, **wrong}).status_code, 422)
        self.assertRedirects(client.post("/setup/", {**FORM, "code": code}), "/first-steps/")
        school = School.objects.get()
        self.assertEqual((school.name, school.time_zone), ("Quayside Music", "Europe/Lisbon"))
        self.assertTrue(User.objects.get(username="odile").is_head)
        self.assertEqual(Client().get("/setup/").status_code, 404)
        self.assertRedirects(Client().get("/"), "/sign-in/?next=/")

    def test_a_code_is_known_by_its_hash_works_once_and_ends_those_before(self) -> None:
        old, code = new_setup_code(), new_setup_code()
        self.assertNotIn(code, str(list(SetupCode.objects.values())))
        with self.assertRaises(WrongCode):
            set_up(old, **SAID, password=PASSWORD)
        set_up(code, **SAID, password=PASSWORD)
        with self.assertRaises(WrongCode):
            set_up(code, **{**SAID, "username": "other"}, password=PASSWORD)
        self.assertIsNone(new_setup_code())
        call_command("setup_code")

    def test_the_setup_code_cannot_be_guessed_on_and_on(self) -> None:
        new_setup_code()
        answers = [Client().post("/setup/", {**FORM, "code": f"WRONG{k}"}).status_code for k in range(10)]
        self.assertEqual((answers[0], answers[-1]), (422, 429))

    def test_each_first_step_stays_on_today_until_it_is_done_or_dismissed(self) -> None:
        teacher = factories.teacher()
        self.client.force_login(teacher)

        def steps() -> list[str]:
            return [step.value for step in self.client.get("/").context["first_steps"]]

        self.assertEqual(steps(), ["class", "people", "exercise"])
        self.client.post("/classes/", {"name": "Keys"})
        self.assertEqual(steps(), ["people", "exercise"])
        self.client.post("/first-steps/dismiss/", {"step": "people"})
        self.client.post("/first-steps/dismiss/", {"step": "people"})
        self.client.post("/first-steps/dismiss/", {"step": "nonsense"})
        self.assertEqual(steps(), ["exercise"])
        factories.assignment(factories.exercise(teacher), SchoolClass.objects.get(name="Keys"))
        self.assertEqual(steps(), [])

    def test_first_steps_say_what_is_done(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        self.client.force_login(teacher)
        self.assertContains(self.client.get("/"), "First steps")
        self.assertContains(self.client.get("/first-steps/"), "Name of the class")
        school_class = factories.school_class(teachers=[teacher], students=[student])
        self.assertContains(self.client.get("/first-steps/"), "One student is here.")
        self.client.post("/exercises/ready-made/add/", {"piece": "morning-gate"})
        factories.assignment(Exercise.objects.first(), school_class)
        self.assertContains(self.client.get("/first-steps/"), 'class="is-done"', count=3)
        self.assertNotContains(self.client.get("/"), "First steps")


class AtOnceTest(TransactionTestCase):
    def test_two_who_set_up_at_once_make_one_school(self) -> None:
        code = new_setup_code()
        ended: list[str] = []

        def make(username: str) -> None:
            try:
                set_up(code, **{**SAID, "username": username}, password=PASSWORD)
                ended.append("made")
            except WrongCode:
                ended.append("too late")
            finally:
                connection.close()

        threads = [factories.thread(target=make, args=(name,)) for name in ("one", "two")]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(ended), ["made", "too late"])
        self.assertEqual((School.objects.count(), Membership.objects.count()), (1, 1))
