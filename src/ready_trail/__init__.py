"""Ready Trail: fused relay circuits for 12 and 24 V vehicles, from label to drawing."""

__version__ = "0.1.0"
