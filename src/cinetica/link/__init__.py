"""The line to a running game, for scripts: `listen` waits for a game, `Line` sends to it and records what it does.

The messages are Open Sound Control over UDP; docs/link.md has all of them.
"""

from cinetica.link.line import Line, listen
from cinetica.link.messages import PORT

__all__ = ["PORT", "Line", "listen"]
