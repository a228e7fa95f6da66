"""Signs of loudness and the velocities that they stand for."""

LOUDNESS = {"ppp": 24, "pp": 36, "p": 49, "mp": 64, "mf": 80, "f": 96, "ff": 112, "fff": 122}
"""From the softest; a sign's velocity, 1 to 127. There is no standard for these: even steps about mf, which is where a
typed note stands."""
PLAIN_SIGN = "mf"


def sign_of(velocity: float) -> str:
    """Return the loudness sign with the nearest velocity."""
    return min(LOUDNESS, key=lambda sign: abs(LOUDNESS[sign] - velocity))
