"""``python -m pale_ember.cli``: the same as the command ``pale-ember``."""

import sys

from . import main

if __name__ == "__main__":
    sys.exit(main())
