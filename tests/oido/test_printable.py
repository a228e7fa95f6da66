"""Control characters: refused by every form and import."""

import io
import json

from django import forms
from django.test import TestCase
from mido import Message, MetaMessage, MidiFile, MidiTrack

from ear.errors import FormatError
from ear.formats.musicxml.writing import write_musicxml
from ear.formats.smf import read_contents
from oido.access.forms import OwnEmailForm
from oido.common.bodies import BadBody, parsed
from oido.exercises.bundle import read_bundle, write_bundle
from oido.exercises.models import Exercise
from oido.people.forms import SchoolForm
from oido.stand.bodies import TakeBody
from tests.ear.parts import melody
from tests.oido import factories
from tests.oido.test_roster import archive


class PrintableTest(TestCase):
    def test_every_text_field_of_every_form_refuses_them(self) -> None:
        class Plain(forms.Form):
            text = forms.CharField(widget=forms.Textarea)

        for text, is_fine in (
            ("two\r\nlines\tand more", True),
            ("a bell\x07", False),
            ("\x85", False),
            ("\ufffe", False),
        ):
            self.assertEqual(Plain({"text": text}).is_valid(), is_fine, repr(text))
        self.assertFalse(OwnEmailForm({"email": '"\x07"@school.example', "current_password": "x"}).is_valid())
        school = factories.school()
        self.assertFalse(SchoolForm({"name": "A\x1bB", "time_zone": "UTC"}, instance=school).is_valid())

    def test_bodies_of_scripts_refuse_them_but_for_names_of_devices(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        given = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        new = factories.new_take(given)
        body = {
            "id": str(new.id), "part": new.part_id, "source": "midi", "latency_ms": 0, "device": "Keys\x00\x1b",
            "recorded_at": "2026-11-20T18:42:00Z", "events": new.events,
        }  # fmt: skip
        self.assertEqual(parsed(json.dumps(body).encode(), TakeBody).new_take().device, "Keys")
        with self.assertRaises(BadBody):
            parsed(b'{"a": ["\\u0007"]}', dict[str, list[str]])

    def test_files_from_elsewhere_are_cleaned_or_refused(self) -> None:
        file, track = MidiFile(), MidiTrack()
        track.append(MetaMessage("track_name", name="Pi\x07ano caf\u00c3\u00a9"))
        track += [Message("note_on", note=60, velocity=80), Message("note_off", note=60, time=480)]
        file.tracks.append(track)
        buffer = io.BytesIO()
        file.save(file=buffer)
        self.assertIn("Piano café", str(read_contents(buffer.getvalue())))
        self.assertNotIn(b"\x07", write_musicxml(melody(), title="A\x07B"))
        exercise = factories.exercise(factories.teacher())
        Exercise.objects.filter(pk=exercise.pk).update(instructions="\x07")
        with self.assertRaises(FormatError):
            read_bundle(write_bundle(Exercise.objects.get(pk=exercise.pk)))
        with self.assertRaises(FormatError):
            read_bundle(archive(users="x"))
