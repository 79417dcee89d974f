"""Errors of the core: wrong input and bugs. Honest work is answered by findings instead."""


class CoreError(Exception):
    """Base of every error that the core raises."""


class OutOfRangeError(CoreError):
    """A figure lies outside the range for which its formula holds."""

    def __init__(self, name: str, value: float, low: float, high: float, unit: str) -> None:
        self.name, self.value, self.low, self.high, self.unit = name, value, low, high, unit
        super().__init__(f"{name} = {value:g} {unit} is outside {low:g} to {high:g}")


class TableError(CoreError):
    """A table of the catalogue is malformed, or lacks the row asked for."""


class NotConvergedError(CoreError):
    """The solver found no operating point."""


class EditRefusedError(CoreError):
    """An edit cannot be applied to this job; ``field`` names what must change."""

    def __init__(self, field: str, message: str) -> None:
        self.field, self.message = field, message
        super().__init__(f"{field}: {message}")


def require_between(name: str, value: float, low: float, high: float, unit: str) -> None:
    """Raise OutOfRangeError unless ``low <= value <= high`` (so NaN is refused too)."""
    if not low <= value <= high:
        raise OutOfRangeError(name, value, low, high, unit)
