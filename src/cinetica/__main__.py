"""The program's entry point."""

import sys


def main() -> None:
    """Run the command line."""
    try:
        from cinetica.cli import main

        main()
    except KeyboardInterrupt:
        # Only while modules are loading; after that the command line reports it.
        sys.exit("Aborted!")


if __name__ == "__main__":
    main()
