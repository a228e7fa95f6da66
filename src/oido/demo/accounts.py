"""The demo school's accounts that are told to those who start it. Plain data, no Django."""

from typing import NamedTuple

PASSWORD = "harbour-lights"


class Account(NamedTuple):
    username: str
    role: str
    about: str


ACCOUNTS = (
    Account("ines", "teacher", "Ines Calloway, keyboard class"),
    Account("bram", "teacher", "Bram Okoro-Vale, drum class"),
    Account("olwen", "head", "Olwen Tarrant, head of the school"),
    Account("maren", "student", "Maren Osei, Tuesday Keys"),
    Account("joss", "student", "Joss Hallorand, Thursday Kit"),
)
