"""Tests of everything.

How long one example of a property takes is no part of the property. A run draws the same examples each time, so that it can be
repeated; `OIDO_EXAMPLES=new ./oido test` draws new ones.
"""

import os

from hypothesis import settings

settings.register_profile("oido", deadline=None, derandomize=os.environ.get("OIDO_EXAMPLES") != "new")
settings.load_profile("oido")
