"""How people get in: where they are signed in, and codes that let them in once."""

import secrets
from datetime import timedelta

from django.conf import settings
from django.db import models
from django.utils import timezone
from django.utils.crypto import salted_hmac

from oido.people.models import SchoolRow, User

LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Without I, O, 0 and 1, which are read as each other."""
GROUPS, GROUP = 3, 4
CODE_KEPT = timedelta(days=30)
PROGRAMS = (
    ("Edg", "Edge"),
    ("OPR/", "Opera"),
    ("Firefox", "Firefox"),
    ("Chrom", "Chrome"),
    ("Safari", "Safari"),
)
SYSTEMS = (
    ("Windows", "Windows"), ("Android", "Android"), ("iPhone", "iPhone"), ("iPad", "iPad"), ("CrOS", "ChromeOS"),
    ("Mac OS", "Mac"), ("Linux", "Linux"),
)  # fmt: skip
"""Signs in what browsers call themselves; the first that is found, since each names those before it, too."""


class SignedIn(models.Model):
    """A browser in which somebody is signed in. Gone with its session."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="signed_in")
    session_key = models.CharField(max_length=40, unique=True)
    browser = models.CharField(max_length=200, blank=True)
    """As it calls itself."""
    address = models.GenericIPAddressField(null=True)
    begun_at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-seen_at"]

    @property
    def device(self) -> str:
        """As people call it; as it calls itself where it is none of those known."""
        program = next((name for sign, name in PROGRAMS if sign in self.browser), "")
        system = next((name for sign, name in SYSTEMS if sign in self.browser), "")
        return " · ".join(name for name in (program, system) if name) or self.browser


class SignInCode(SchoolRow):
    """A code on a printed slip: signs one person in once, to choose a password. Only its hash is stored."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="sign_in_codes")
    code_hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    ends_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)


class Identity(models.Model):
    """A person's account with the school's own sign-in service."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="identities")
    issuer = models.CharField(max_length=200, db_collation="utf8mb4_bin")
    """The address of the service."""
    subject = models.CharField(max_length=255, db_collation="utf8mb4_bin")
    """What the service calls the account: never reused, unlike an e-mail address. Capitals matter."""
    linked_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["issuer", "subject"], name="identity_once")]


class EmailChange(models.Model):
    """A new e-mail address that its reader has not confirmed yet. Only the hash of the link in the e-mail is stored."""

    person = models.OneToOneField(User, on_delete=models.CASCADE, related_name="email_change")
    address = models.EmailField(blank=True)
    """Empty where the address was removed and only the old one has to be told."""
    old_address = models.EmailField(blank=True)
    token_hash = models.CharField(max_length=64, blank=True, db_index=True)
    """Empty until the e-mails are written."""
    requested_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    requested_at = models.DateTimeField(default=timezone.now)
    ends_at = models.DateTimeField()


class WrongGuesses(models.Model):
    """How many wrong codes or passwords of one kind came from one source without a pause."""

    kind = models.CharField(max_length=20)
    source = models.CharField(max_length=60)
    """An address; for the own password of somebody who is signed in, the key of the person."""
    count = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "source"], name="guesses_once_by_source")]


def new_code() -> str:
    """Return a new code of three groups of four characters (some 60 bits)."""
    return "-".join("".join(secrets.choice(LETTERS) for _ in range(GROUP)) for _ in range(GROUPS))


def code_hash(code: str, *, key: str | None = None) -> str:
    """Return the hash of a code, by today's secret key unless another is passed. Case, spaces and dashes make no
    difference."""
    plain = "".join(sign for sign in code.upper() if sign.isalnum())
    return salted_hmac("oido.sign-in-code", plain, secret=key, algorithm="sha256").hexdigest()


def code_hashes(code: str) -> list[str]:
    """Return what a code may be stored as: it was made by today's secret key, or by one that still counts."""
    return [code_hash(code), *(code_hash(code, key=key) for key in settings.SECRET_KEY_FALLBACKS)]
