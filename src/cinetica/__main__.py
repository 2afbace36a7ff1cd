"""The program's entry point."""

import sys


def main() -> None:
    """Run the command line."""
    try:
        from cinetica.cli import main

        main()
    except KeyboardInterrupt:
        # While modules were still loading; from then on the command line says it itself.
        sys.exit("Aborted!")


if __name__ == "__main__":
    main()
