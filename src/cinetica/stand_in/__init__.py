"""A small game that stands in for yours: `cinetica stand-in`. Copy what you need of it into your own.

`controller.py` moves the character, `link.py` is the game's side of the link (docs/link.md), `game.py` joins the two.
They import nothing of Cinetica.
"""
