from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from ear.notes import Part
from oido.marking.models import Remark


class ScoreForm(forms.Form):
    score = forms.FloatField(label=_("Score"), min_value=0, max_value=100)
    why = forms.CharField(label=_("Why"), max_length=300)


class RemarkForm(forms.ModelForm):
    """A remark on the whole take, or pinned to a bar and beat of the part."""

    class Meta:
        model = Remark
        fields = ["bar", "beat", "text"]
        widgets = {"text": forms.Textarea(attrs={"rows": 2})}

    def __init__(self, *args: Any, part: Part, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.part = part
        self.fields["bar"].widget.attrs |= {"min": 1, "max": len(part.bars)}

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        bar, beat = cleaned.get("bar"), cleaned.get("beat")
        if bar is None and beat is not None:
            self.add_error("bar", _("A beat needs its bar."))
        if bar is not None:
            if not 1 <= bar <= len(self.part.bars):
                self.add_error("bar", _("The part has bars 1 to %(last)s.") % {"last": len(self.part.bars)})
            elif beat is not None and not 1 <= beat <= self.part.meters.bar(bar).meter.beats:
                most = self.part.meters.bar(bar).meter.beats
                self.add_error("beat", _("This bar has beats 1 to %(last)s.") % {"last": most})
        return cleaned
