"""A QR code as one path, one unit a module."""

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
