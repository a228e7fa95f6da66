"""Tests of everything; how long one example of a property takes is no part of the property."""

from hypothesis import settings

settings.register_profile("oido", deadline=None)
settings.load_profile("oido")
