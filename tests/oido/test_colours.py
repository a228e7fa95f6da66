"""Colours for people who see fewer of them: every sign on the music stays visible, and says what it says by its shape as well."""

import re
from itertools import combinations
from pathlib import Path
from unittest import TestCase

import numpy as np

CSS = (
    Path(__file__).resolve().parents[2] / "src" / "oido" / "common" / "static" / "common" / "css" / "oido.css"
)
STAND_CSS = CSS.parents[4] / "stand" / "static" / "stand" / "css" / "stand.css"
ROLES = ("act", "take", "early", "late", "wrong", "well")
"""What is drawn or written on the sheet of music."""
MIN_CONTRAST = 3.0
"""WCAG 2.2, 1.4.11, for what is not text."""
DEFICIENCIES = {
    "protanopia": [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]],
    "deuteranopia": [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]],
    "tritanopia": [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]],
}  # fmt: skip
"""Linear RGB seen without one kind of cone: Machado, Oliveira and Fernandes, “A Physiologically-based Model for Simulation of
Color Vision Deficiency”, 2009, table 1, severity 1."""
BAR_STATES = ("early", "late", "wrong", "beside", "missed")


def tokens(css: str) -> dict[str, np.ndarray]:
    """The colours of one theme in linear RGB."""
    colours = {}
    for name, value in re.findall(r"--([\w-]+): #([0-9a-f]{6})", css):
        srgb = np.array([int(value[k : k + 2], 16) for k in (0, 2, 4)]) / 255
        colours[name] = np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)
    return colours


def contrast(a: np.ndarray, b: np.ndarray) -> float:
    light, dark = sorted((float(colour @ [0.2126, 0.7152, 0.0722]) for colour in (a, b)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


class ColourTest(TestCase):
    def test_every_sign_is_seen_on_the_sheet_with_fewer_colours_and_in_both_themes(self) -> None:
        light, dark = re.findall(r":root \{(.*?)\n *\}", CSS.read_text(), re.DOTALL)[:2]
        for theme, css in (("light", light), ("dark", dark)):
            colours = tokens(css)
            for deficiency, rows in {"none": np.eye(3), **DEFICIENCIES}.items():
                seen = {name: np.clip(np.array(rows) @ colour, 0, 1) for name, colour in colours.items()}
                for role in ROLES:
                    with self.subTest(theme=theme, deficiency=deficiency, role=role):
                        self.assertGreaterEqual(contrast(seen[role], seen["music-sheet"]), MIN_CONTRAST)

    def test_marks_of_bars_differ_by_shape_also_in_forced_colours(self) -> None:
        css = STAND_CSS.read_text()
        forced = css[css.index("@media (forced-colors: active) {\n  .bar-state") :]
        for part in (css, forced):
            shapes = {}
            for state in BAR_STATES:
                rule = re.search(rf"\.bar-state\.is-{state} {{([^}}]*)}}", part)
                assert rule is not None, state
                # Without its colours.
                shapes[state] = re.sub(r"var\([^)]*\)|CanvasText|Canvas|background: ;?", "", rule[1]).strip()
            for a, b in combinations(BAR_STATES, 2):
                self.assertNotEqual(shapes[a], shapes[b], (a, b))
