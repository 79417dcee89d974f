"""Ready Trail: fused relay circuits for 12, 24 and 48 V vehicles, from label to drawing."""

import os

# The matrices are small: threads of the linear algebra cost more than they bring.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.2.0"
