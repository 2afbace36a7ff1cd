"""The window. Widgets show and edit; every number comes from the packages below."""

from cinetica.desk.paint import library

library.load()
