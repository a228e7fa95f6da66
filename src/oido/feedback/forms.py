from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.notes import Part
from oido.common.forms import FormData, ModelForm
from oido.feedback.remarks import PHRASE_FIELDS, unknown_fields
from oido.marking.models import Phrase, Remark, Reply


class RemarkForm(ModelForm[Remark]):
    """A remark on the whole take, or pinned to a bar and beat of the part."""

    class Meta:
        model = Remark
        fields = ["bar", "beat", "text"]
        widgets = {
            "text": forms.Textarea(attrs={"rows": 2, "data-key": "m", "data-key-name": _("write a remark")})
        }

    def __init__(self, data: FormData = None, *, part: Part, **kwargs: Any) -> None:
        super().__init__(data, **kwargs)
        self.part = part
        self.fields["bar"].widget.attrs |= {"min": part.first_bar, "max": part.last_bar}

    def clean(self) -> dict[str, object]:
        cleaned = super().clean() or {}
        bar, beat = cleaned.get("bar"), cleaned.get("beat")
        if bar is None and beat is not None:
            self.add_error("bar", _("Enter a bar as well as a beat."))
        if bar is not None:
            if not self.part.first_bar <= bar <= self.part.last_bar:
                self.add_error("bar", _("The part has bars 1 to %(last)s.") % {"last": self.part.last_bar})
            elif beat is not None and not 1 <= beat <= self.part.meters.bar(bar).meter.beats:
                most = self.part.meters.bar(bar).meter.beats
                self.add_error("beat", _("This bar has beats 1 to %(last)s.") % {"last": most})
        return cleaned


class PhraseForm(ModelForm[Phrase]):
    class Meta:
        model = Phrase
        fields = ["text"]
        widgets = {"text": forms.Textarea(attrs={"rows": 2})}

    def clean_text(self) -> str:
        text: str = self.cleaned_data["text"]
        known = ", ".join(f"{{{name}}}" for name in PHRASE_FIELDS)
        try:
            unknown = unknown_fields(text)
        except ValueError as problem:
            raise forms.ValidationError(_("Write fields in single braces, as in {name}.")) from problem
        if unknown:
            raise forms.ValidationError(
                _("There is no field {%(field)s}. You can use %(known)s."),
                params={"field": unknown[0], "known": known},
            )
        return text


class ReplyForm(ModelForm[Reply]):
    class Meta:
        model = Reply
        fields = ["text"]
        widgets = {"text": forms.Textarea(attrs={"rows": 3})}
