"""How things are named: the school's way, and one's own."""

from django.test import TestCase

from ear.notes import STANDARD_KIT
from oido.bench.services import open_draft
from oido.common.permissions import NotAllowed
from oido.people.conventions import conventions_of
from oido.people.forms import OwnNamingForm, SchoolNamingForm
from oido.people.models import User
from oido.people.services import set_own_naming, set_school_naming
from tests.ear.parts import beat
from tests.oido import factories


class NamingTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        cls.exercise = factories.exercise(cls.teacher)

    def send(self, who: User, button: str, **values: str) -> int:
        self.client.force_login(who)
        data = {f"{button}-{name}": value for name, value in values.items()}
        return self.client.post("/naming/", data | {button: "1"}).status_code

    def names(self, who: User) -> tuple[str, str, bool]:
        actual = conventions_of(User.objects.get(pk=who.pk))
        return actual.value_name("crotchet"), actual.pitch(60, fifths=0), actual.left_handed

    def test_the_schools_way_holds_until_somebody_chooses_otherwise(self) -> None:
        self.assertEqual(self.names(self.student), ("crotchet", "C4", False))
        whole = {"value_names": "american", "note_names": "solfege", "middle_c_octave": "3"}
        self.assertEqual(self.send(self.teacher, "school", **whole), 302)
        self.assertEqual(self.names(self.student), ("quarter note", "do3", False))
        own = {"value_names": "", "note_names": "letters", "middle_c_octave": "", "left_handed": "on"}
        self.assertEqual(self.send(self.student, "own", **own), 302)
        self.assertEqual(self.names(self.student), ("quarter note", "C3", True))
        self.assertEqual(self.names(self.teacher), ("quarter note", "do3", False))
        self.assertEqual(self.send(self.student, "own", value_names="french"), 422)

    def test_a_student_does_not_set_the_schools_way(self) -> None:
        whole = {"value_names": "american", "note_names": "solfege", "middle_c_octave": "3"}
        self.send(self.student, "school", **whole)
        self.assertEqual(self.names(self.teacher), ("crotchet", "C4", False))
        form = SchoolNamingForm({f"school-{k}": v for k, v in whole.items()}, instance=self.student.school)
        self.assertTrue(form.is_valid())
        self.assertRaises(NotAllowed, set_school_naming, self.student, form)
        other = OwnNamingForm({}, instance=self.teacher)
        self.assertTrue(other.is_valid())
        self.assertRaises(NotAllowed, set_own_naming, self.student, other)

    def test_a_left_handed_kit_is_the_other_way_round(self) -> None:
        exercise = factories.exercise(self.teacher, beat())
        url = f"/bench/{exercise.pk}/playing/"
        self.client.force_login(self.teacher)
        right = self.client.get(url).json()
        self.send(self.teacher, "own", left_handed="on")
        left = self.client.get(url).json()
        self.assertEqual(left["pads"], right["pads"][::-1])
        # On the Bench the whole kit is there: a pass may bring a lane that the part has not.
        self.assertEqual(len(left["pads"]), len(STANDARD_KIT.lanes))
        self.assertEqual(left["layout"]["KeyF"], right["layout"]["KeyJ"])

    def test_the_bench_speaks_the_persons_way(self) -> None:
        self.send(self.teacher, "own", value_names="american", note_names="solfege", middle_c_octave="")
        page = self.client.get(f"/bench/{self.exercise.pk}/")
        self.assertContains(page, "dotted quarter note")
        self.assertNotContains(page, "crotchet")
        picked = self.client.post(
            f"/bench/{self.exercise.pk}/do/touch/", {"note": 0}, headers={"HX-Request": "true"}
        )
        self.assertContains(picked, "Picked: do4")
        card = self.client.get(f"/bench/{self.exercise.pk}/do/note/", headers={"HX-Request": "true"})
        self.assertContains(card, 'value="do4"')
        self.client.post(f"/bench/{self.exercise.pk}/do/text/", {"text": "sol4 la+si _"})
        written = [n.pitch for n in open_draft(self.teacher, self.exercise).part.notes]
        self.assertLessEqual({67, 69, 71}, set(written))
