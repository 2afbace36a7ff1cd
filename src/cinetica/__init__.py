"""Cinetica: tune how a game character moves and compare the curves frame by frame."""

__version__ = "0.1.0"
