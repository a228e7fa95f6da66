"""Lines of the log: one JSON object each, with keys and without names, texts and tokens."""

import json
import logging
from contextlib import contextmanager
from unittest.mock import patch

from django.db import OperationalError
from django.test import TestCase
from structlog.contextvars import get_contextvars
from structlog.stdlib import ProcessorFormatter

from oido.common.logs import JSON_LINES, logging_by
from oido.jobs.kinds import KINDS, JobKind
from oido.jobs.models import Job
from oido.jobs.services import do
from tests.oido import factories

TOKEN = "AbCdEfGh-secret-token-1234567890"


class Lines(logging.Handler):
    """Keeps lines as they are written in production."""

    def __init__(self) -> None:
        super().__init__()
        self.setFormatter(
            ProcessorFormatter(**{name: value for name, value in JSON_LINES.items() if name != "()"})
        )
        self.lines: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.lines.append(self.format(record))


class LogTest(TestCase):
    @contextmanager
    def logged(self):
        """All lines that production would write; parsed when the block is over."""
        handler, told = Lines(), []
        levels = {
            name: rules["level"] for name, rules in logging_by("INFO", is_production=True)["loggers"].items()
        }
        before = {name: logging.getLogger(name).level for name in levels}
        root = logging.getLogger()
        root.addHandler(handler)
        for name, level in levels.items():
            logging.getLogger(name).setLevel(level)
        try:
            yield told
        finally:
            root.removeHandler(handler)
            for name, level in before.items():
                logging.getLogger(name).setLevel(level)
            told += [json.loads(line) for line in handler.lines]

    def test_a_request_is_one_line_with_the_keys_of_who_asked(self) -> None:
        teacher = factories.teacher(first="Theodora")
        self.client.force_login(teacher)
        with self.logged() as lines:
            self.client.get("/exercises/", {"q": "Theodora plays"})
        [line] = [one for one in lines if one["logger"] == "oido.requests"]
        self.assertEqual(
            {name: line[name] for name in ("message", "method", "route", "status", "person", "school", "level")},
            {
                "message": "answered", "method": "GET", "route": "/exercises/", "status": 200, "person": teacher.pk,
                "school": teacher.school_id, "level": "info",
            },
        )  # fmt: skip
        self.assertRegex(line["time"], r"^\d{4}-\d\d-\d\dT.*Z$")
        self.assertNotIn("Theodora", json.dumps(lines))

    def test_an_error_page_shows_what_the_log_calls_the_request_and_nobody_is_mixed_up(self) -> None:
        teacher = factories.teacher()
        self.client.force_login(teacher)
        self.client.raise_request_exception = False
        with self.logged() as lines, patch("oido.home.views.counted", side_effect=ValueError("a fault")):
            page = self.client.get("/").content.decode()
        [error] = [one for one in lines if one["level"] == "error"]
        self.assertIn(f"quote reference {error['request']}", page)
        self.assertEqual(error["person"], teacher.pk)
        self.assertIn("a fault", error["exception"])
        with self.logged() as lines:
            self.client_class().get("/sign-in/")
        self.assertNotIn("person", lines[-1])
        self.assertNotEqual(lines[-1]["request"], error["request"])

    def test_tokens_in_addresses_stand_nowhere(self) -> None:
        factories.teacher()
        with self.logged() as lines:
            for address in (
                f"/invitation/{TOKEN}/",
                f"/reset-password/MQ/{TOKEN}/",
                f"/nowhere/{TOKEN}/",
                f"/sign-in/?next=/{TOKEN}/",
            ):
                self.client.get(address)
            self.client_class(enforce_csrf_checks=True).post(f"/invitation/{TOKEN}/", {"password": "harbour"})
        self.assertGreater(len(lines), 4)
        self.assertNotIn(TOKEN, json.dumps(lines))

    def test_a_database_that_is_away_is_a_line_and_no_trace(self) -> None:
        self.client.force_login(factories.teacher())
        self.client.raise_request_exception = False
        away = OperationalError(2002, "away")
        with self.logged() as lines, patch("oido.home.views.counted", side_effect=away):
            answer = self.client.get("/")
        self.assertEqual((answer.status_code, "Retry-After" in answer), (503, True))
        self.assertEqual([one for one in lines if "exception" in one], [])

    def test_a_job_is_named_in_what_it_logs(self) -> None:
        job = Job.everywhere.create(kind="tidy")
        seen = {}
        remember = JobKind(name="tidy", run=lambda progress: seen.update(get_contextvars()))
        with patch.dict(KINDS, {"tidy": remember}):
            do(str(job.pk))
        self.assertEqual((seen["job"], seen["kind"]), (str(job.pk), "tidy"))
