"""The library mido, imported quickly.

At import mido works out its own version, for which Python reads the metadata of the installed
packages; that takes as long as all the rest of the library, and `measure` would wait for it each
time. Nothing here asks for the version, so a bare one is put in its place.
"""

import sys
from types import ModuleType

if "mido" not in sys.modules:
    _version = ModuleType("mido.version")
    _version.version_info = None  # type: ignore[attr-defined]
    sys.modules.setdefault("mido.version", _version)

import mido

__all__ = ["mido"]
