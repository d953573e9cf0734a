"""``python -m dromic``."""

import sys

from dromic.cli import main

sys.exit(main())
