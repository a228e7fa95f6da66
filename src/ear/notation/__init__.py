"""Drawn notation: a part spelled in note values (`written`), and engraved (`mei`, `engraving`)."""
