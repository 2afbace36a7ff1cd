"""The window. Widgets show and edit; every number comes from the packages below."""

from importlib.util import find_spec

# While a program is set up, `warm.py` compiles what the window needs before the window's own libraries are there.
if find_spec("PySide6") is not None:
    from cinetica.desk.paint import library

    library.load()
