"""The few units outside SI that the trade reads: feet."""

FOOT_M = 0.3048


def feet_of_m(length_m: float) -> float:
    """Return a length in feet.

    Examples
    --------
    >>> feet_of_m(3.048)
    10.0
    """
    return length_m / FOOT_M
