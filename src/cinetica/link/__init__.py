"""The link to a running game, for scripts: `listen` opens a `Connection`, which sends to a game and records it.

The messages are Open Sound Control over UDP; docs/link.md has all of them.
"""

from cinetica.link.connection import Connection, listen
from cinetica.link.messages import PORT

__all__ = ["PORT", "Connection", "listen"]
