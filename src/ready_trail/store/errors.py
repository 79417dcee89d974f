"""Errors of the store."""


class StoreError(Exception):
    """Base of every error that the store raises."""


class NotFoundError(StoreError):
    """There is no such job or revision."""

    def __init__(self, what: str, key: object) -> None:
        self.what, self.key = what, key
        super().__init__(f"no {what} {key}")


class StaleWriteError(StoreError):
    """The job moved on since the writer read it."""

    def __init__(self, job_id: int, seen: int, head: int) -> None:
        self.job_id, self.seen, self.head = job_id, seen, head
        super().__init__(f"job {job_id} is at revision {head}, the change was made on {seen}")


class NothingToUndoError(StoreError):
    """The head has no parent (undo) or no child (redo)."""


class PressedBeforeError(StoreError):
    """A form was pressed before; ``location`` is where that led."""

    def __init__(self, location: str) -> None:
        self.location = location
        super().__init__("this form was pressed before")


class MigrationError(StoreError):
    """The database's schema does not fit this program."""


class DatabaseUnusableError(StoreError):
    """The database file cannot be opened, read or written."""


class NotEnoughError(StoreError):
    """More would be taken from the shelf than is there."""

    def __init__(self, label: str, has: float, wanted: float, unit: str) -> None:
        super().__init__(
            f"the shelf has {has:g} {unit} of {label}, {wanted:g} cannot be taken; "
            "count it first if more is there"
        )


class NotAFactError(Exception):
    """A row of an archive is no fact as this program keeps them."""

    def __init__(self, where: str) -> None:
        super().__init__(f"{where}: is no fact as this program keeps them")
