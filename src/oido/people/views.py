from typing import Any

from django.conf import settings
from django.contrib.auth.views import LoginView

from oido.demo.accounts import ACCOUNTS, PASSWORD


class SignIn(LoginView):
    template_name = "people/sign_in.html"
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        context = super().get_context_data(**kwargs)
        if settings.IS_DEMO:
            context |= {"accounts": ACCOUNTS, "demo_password": PASSWORD}
        return context
