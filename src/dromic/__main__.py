"""``python -m dromic``."""

import sys

from dromic.entry import main

if __name__ == "__main__":
    sys.exit(main())
