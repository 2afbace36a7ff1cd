"""Where the program begins."""

import gc
import sys


def main() -> None:
    """The command line. Nothing is garbage while modules load, and to look for it takes a tenth of a start."""
    gc.disable()
    try:
        from cinetica.cli import main

        main()
    except KeyboardInterrupt:
        # While modules were still loading; from then on the command line says it itself.
        sys.exit("Aborted!")


if __name__ == "__main__":
    main()
