"""Flow: whether the music kept going, and where it was broken."""

from ear.criterion import CriterionKey

FLOW = CriterionKey("flow")
