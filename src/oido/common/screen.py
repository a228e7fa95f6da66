"""How wide music may be drawn on the reader's screen, so that notes have one size everywhere and rows fit without scrolling.

A script on every page writes the window's width into a cookie, so that already the first drawing fits. Without it the drawing
is as wide as on a computer.
"""

from django.http import HttpRequest

from oido.common.numbers import whole

COOKIE = "window-width"
PAGE_WIDTH = 860.0
"""Units of a drawing on a computer: about a pixel each."""
ONE_COLUMN_PX = 1000
"""Up to here a page has one column (`oido.css`)."""
MARGINS_PX, ASIDE_PX = 66, 420
"""What is left free beside the music: the margins of a narrow page and of its sheet; on a wide one the column beside it, too."""
NARROWEST, WIDEST = 240.0, 2400.0


def music_width(request: HttpRequest) -> float:
    """Return the width, in units of a pixel, at which music is drawn for this reader's window."""
    window_px = whole(request.COOKIES.get(COOKIE, ""))
    if window_px is None:
        return PAGE_WIDTH
    beside_px = MARGINS_PX if window_px <= ONE_COLUMN_PX else ASIDE_PX
    return min(PAGE_WIDTH, max(NARROWEST, float(window_px - beside_px)))


def asked_width(request: HttpRequest) -> float:
    """Return the width that an address asks for, within what can be drawn; else the one of the reader's window."""
    asked = whole(request.GET.get("width", ""))
    return music_width(request) if not asked else min(WIDEST, max(NARROWEST, float(asked)))
