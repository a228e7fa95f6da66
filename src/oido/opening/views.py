"""Setting up the first school; what to do first; deleting what nobody needs."""

from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_GET, require_http_methods

from oido.access.guesses import GuessKind
from oido.access.views import BACKEND, wrong_code
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.opening.first_steps import FirstStep, dismiss_step, first_steps
from oido.opening.forms import SetUpForm
from oido.opening.services import WrongCode, is_empty, set_up
from oido.people.requests import Request


@never_cache
@sensitive_post_parameters()
@login_not_required
@require_http_methods(["GET", "POST"])
def setup(request: HttpRequest) -> HttpResponseBase:
    """There only as long as there is no school."""
    if not is_empty():
        raise Http404
    form = SetUpForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        fields = form.cleaned_data
        try:
            head = set_up(
                fields["code"], school=fields["school"], language=fields["language"], time_zone=fields["time_zone"], first=fields["first"], last=fields["last"],
                username=fields["username"], email=fields["email"], password=fields["password1"],
            )  # fmt: skip
        except WrongCode:
            if (answer := wrong_code(request, GuessKind.SETUP_CODE)) is not None:
                return answer
            form.add_error("code", _("This is not the code that was printed last."))
        else:
            login(request, head, backend=BACKEND)
            return redirect("first-steps")
    return render(request, "opening/set_up.html", {"form": form}, status=422 if form.is_bound else 200)


@require_GET
@for_teachers
def steps(request: Request) -> HttpResponseBase:
    """A class, its people, a first exercise: what is done of it, and what comes next."""
    return render(request, "opening/first_steps.html", {"steps": first_steps(request.user)})


@only_post
@for_teachers
def dismiss(request: Request) -> HttpResponseBase:
    """Take a first step off the teacher's page."""
    step = request.POST.get("step", "")
    if step in FirstStep.values:
        dismiss_step(request.user, FirstStep(step))
    return redirect("home")
