"""Start the shell face with ``python -m fair_thicket``."""

import sys

from fair_thicket.cli import main

if __name__ == "__main__":  # children that read files for us import this module too
    sys.exit(main())
