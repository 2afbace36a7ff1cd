"""A pytest plugin: figures are read in plain Python, on runs of the compiled kernel (`-p tools.plain_figures`)."""

from cinetica.motion import step
from cinetica.motion.native import kernel
from cinetica.reading import run_reader


def pytest_configure() -> None:
    """Put plain functions where the compiled ones are."""
    step.run_one = kernel()
    run_reader._reader = lambda: run_reader._plainly
