"""How tests are run: they look at what is stored from outside of all schools."""

from typing import Any
from unittest import TestResult

from django.test.runner import DiscoverRunner

from oido.people.scope import Scope, within


class OutsideRunner(DiscoverRunner):
    """Names every school for the tests themselves. Requests, jobs and threads name theirs, or are refused."""

    def run_suite(self, suite: Any, **kwargs: Any) -> TestResult:
        with within(Scope.EVERYWHERE):
            return super().run_suite(suite, **kwargs)
