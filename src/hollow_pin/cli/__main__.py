"""`python -m hollow_pin.cli`."""

import sys

from hollow_pin.cli.main import main

if __name__ == "__main__":
    sys.exit(main())
