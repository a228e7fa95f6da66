"""Locust's students: each sends one take, all at the same moment or within so many seconds. Run by `uploads.py`."""

import json
import os
import time
from pathlib import Path
from random import Random
from typing import Any

import gevent
from gevent.event import Event
from locust import FastHttpUser, events, task
from locust.exception import StopUser

PLAN = json.loads(Path(os.environ["OIDO_LOAD_PLAN"]).read_text())
WAITING = list(PLAN["requests"])
RANDOM = Random(1)
ANSWERS: list[dict[str, float]] = []
EVERYBODY_IS_THERE = Event()


class Student(FastHttpUser):
    network_timeout = connection_timeout = 300.0

    @task
    def send(self) -> None:
        request = WAITING.pop()
        headers = {
            "Cookie": request["cookies"],
            "X-CSRFToken": request["token"],
            "Content-Type": "application/json",
        }
        EVERYBODY_IS_THERE.wait()
        gevent.sleep(RANDOM.uniform(0, PLAN["over_s"]))
        begun = time.monotonic()
        answer = self.client.post(request["url"], data=request["body"], headers=headers)
        ANSWERS.append({"status": answer.status_code, "seconds": time.monotonic() - begun})
        if len(ANSWERS) == len(PLAN["requests"]):
            Path(os.environ["OIDO_LOAD_ANSWERS"]).write_text(json.dumps(ANSWERS))
            gevent.spawn(self.environment.runner.quit)
        raise StopUser


@events.spawning_complete.add_listener
def begin(**more: Any) -> None:
    EVERYBODY_IS_THERE.set()
