"""QR codes: as one path where one is shown, as a small picture where many are."""

from __future__ import annotations

import segno


def qr_path(text: str) -> tuple[int, str]:
    """Return the size in modules, quiet zone included, and the path of the dark ones."""
    code = segno.make(text, error="m", micro=False)
    parts = []
    rows = [bytes(row) for row in code.matrix_iter(border=2)]
    for y, row in enumerate(rows):
        x = 0
        while x < len(row):
            if not row[x]:
                x += 1
                continue
            end = x
            while end < len(row) and row[end]:
                end += 1
            parts.append(f"M{x} {y}h{end - x}v1h-{end - x}z")
            x = end
    return len(rows), "".join(parts)


def qr_picture(text: str) -> str:
    """Return the code with its quiet zone as the address of a PNG.

    A page of labels carries the same code many times: paper keeps one picture for all of them,
    while paths are read and drawn one by one. Eight dots a module are 400 an inch at 16 mm.
    """
    uri: str = segno.make(text, error="m", micro=False).png_data_uri(scale=8, border=2)
    return uri
