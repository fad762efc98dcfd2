"""Times and names as people read them: signs, minus, decimals."""

from __future__ import annotations

MINUS = "\N{MINUS SIGN}"

KIND_WORDS = {
    "carried_speed": "carried speed",
    "early_braking": "early braking",
    "late_braking": "late braking",
    "soft_braking": "soft braking",
    "hard_braking": "hard braking",
    "overslowing": "overslowing",
    "more_speed": "more speed",
    "coasting": "coasting",
    "late_throttle": "late throttle",
    "early_throttle": "early throttle",
    "throttle_hesitation": "hesitation",
    "slow_exit": "slow exit",
    "fast_exit": "fast exit",
}


def difference(seconds: float, digits: int = 3) -> str:
    """A time difference with its sign and a true minus; zero carries a plus.

    >>> difference(-0.2144), difference(0.05)
    ('−0.214', '+0.050')
    """
    rounded = round(seconds, digits) + 0.0
    return f"{MINUS if rounded < 0 else '+'}{abs(rounded):.{digits}f}"


def lap_time(seconds: float) -> str:
    """A lap time as minutes and seconds.

    >>> lap_time(92.3144), lap_time(59.9996)
    ('1:32.314', '1:00.000')
    """
    thousandths = round(seconds * 1000.0)
    minutes, rest = divmod(thousandths, 60000)
    return f"{minutes}:{rest // 1000:02d}.{rest % 1000:03d}"
