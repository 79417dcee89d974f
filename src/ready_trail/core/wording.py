"""How a label goes on within a sentence."""


def lower_first(text: str) -> str:
    """Return a label as it stands within a sentence; designations keep their capitals.

    Examples
    --------
    >>> lower_first("Standard blade (type C)")
    'standard blade (type C)'
    >>> lower_first("VHF radio")
    'VHF radio'
    """
    return text if text[1:2].isupper() else text[:1].lower() + text[1:]
