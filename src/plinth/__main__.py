"""``python -m plinth`` is the same as the command ``plinth``."""

import sys

from plinth.cli.main import main

sys.exit(main())
