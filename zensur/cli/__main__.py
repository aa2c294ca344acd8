"""``python -m zensur.cli``: the same as the command ``zensur``."""

from . import main

main()
