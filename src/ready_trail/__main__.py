"""``python -m ready_trail`` is the same as ``ready-trail``."""

import sys

from ready_trail.cli import main

sys.exit(main())
