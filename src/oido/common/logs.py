"""How lines of the log are written: for people in development, as JSON in production."""

import structlog
from structlog.typing import Processor

SHARED: list[Processor] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.stdlib.ExtraAdder(),
    structlog.processors.TimeStamper(fmt="iso", utc=True, key="time"),
]
JSON_LINES = {
    "()": structlog.stdlib.ProcessorFormatter,
    "foreign_pre_chain": SHARED,
    "processors": [
        structlog.stdlib.ProcessorFormatter.remove_processors_meta,
        structlog.processors.format_exc_info,
        structlog.processors.EventRenamer("message"),
        structlog.processors.JSONRenderer(ensure_ascii=False),
    ],
}
"""A JSON object in each line: time, level, logger, message, and of a request its reference, its person and school."""
PLAIN = {"format": "{levelname} {name}: {message}", "style": "{"}


def logging_by(level: str, *, is_production: bool) -> dict[str, object]:
    """Return how Django is to write its log. `level` is that of Oido's own lines."""
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {"lines": JSON_LINES if is_production else PLAIN},
        "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "lines"}},
        "root": {"handlers": ["stderr"], "level": "WARNING"},
        "loggers": {
            "oido": {"level": level},
            # In development the pages are looked at, not the log.
            "oido.requests": {"level": level if is_production else "WARNING"},
            # Who was locked out stands in the trail; names of those who mistyped stand nowhere.
            "axes": {"level": "ERROR"},
            # What they say is said by `oido.common.refusals`, without the address, in which there may be a token.
            "django.request": {"level": "CRITICAL"},
            "django.security": {"level": "CRITICAL"},
        },
    }
