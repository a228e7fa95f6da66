"""The demo school's accounts that are told to those who start it. Plain data, no Django."""

from typing import NamedTuple

PASSWORD = "harbour-lights"


class DemoAccount(NamedTuple):
    username: str
    role: str
    about: str


ACCOUNTS = (
    DemoAccount("ines", "teacher", "Ines Calloway, keyboard class"),
    DemoAccount("bram", "teacher", "Bram Okoro-Vale, drum class"),
    DemoAccount("olwen", "head", "Olwen Tarrant, head of the school"),
    DemoAccount("maren", "student", "Maren Osei, Tuesday Keys"),
    DemoAccount("joss", "student", "Joss Hallorand, Thursday Kit"),
)
