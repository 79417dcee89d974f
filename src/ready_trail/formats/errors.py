"""Errors of files that come in."""


class FileRefusedError(Exception):
    """A file cannot be taken; ``path`` leads to the fault inside it."""

    def __init__(self, path: str, message: str) -> None:
        self.path, self.message = path, message
        super().__init__(f"{path}: {message}" if path else message)
