"""Start the shell face with ``python -m fair_thicket``."""

import sys

from fair_thicket.cli import main

sys.exit(main())
