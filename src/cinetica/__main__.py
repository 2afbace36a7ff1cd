"""Where the program begins."""

import gc


def main() -> None:
    """The command line. Nothing is garbage while modules load, and to look for it takes a tenth of a start."""
    gc.disable()
    from cinetica.cli import main

    main()


if __name__ == "__main__":
    main()
