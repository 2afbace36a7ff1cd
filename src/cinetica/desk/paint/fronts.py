"""The boards that pictures are finished on, shared by all that have one size."""

from __future__ import annotations

from collections import OrderedDict

from cinetica.desk.paint.board import Board, Shape

# So many sizes take turns.
FRONTS = 12

_fronts: OrderedDict[Shape, Board] = OrderedDict()


def front(shape: Shape) -> Board:
    """A board of this shape, as its last user has left it; see `Board`."""
    found = _fronts.get(shape)
    if found is None:
        found = _fronts[shape] = Board(*shape)
        if len(_fronts) > FRONTS:
            _fronts.popitem(last=False)
    else:
        _fronts.move_to_end(shape)
    return found
