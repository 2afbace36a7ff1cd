"""The input lanes of a drill, what is selected in them, and their edits. Knows no widget."""

from __future__ import annotations

from typing import Literal, cast

from cinetica.desk.state.session import Session
from cinetica.model import takes
from cinetica.model.take import KEYS, Moved, Press, Shove, Take
from cinetica.model.takes import EVENTS, MOMENTS, STICKS, USUAL, Event, Stick
from cinetica.reading.display_units import DisplayUnits

# The parts of a press that can be dragged.
Part = Literal["start", "end", "middle"]
NEW_PRESS = 6
MOMENT_WORDS = {"mouse": "Move of the mouse", "shoves": "Shove"}


def press_words(press: Press) -> str:
    """A press in words."""
    count = press.end - press.start
    return f"frames {press.start} – {press.end} ({count} frame{'s' if count != 1 else ''})"


def push_words(push: Event, units: DisplayUnits) -> str:
    """A push, a move of the mouse or a shove in words."""
    frame, x, y = push
    if isinstance(push, Moved):
        return f"frame {frame}: {x:+g} to the right, {y:+g} up, counts".replace("-", "−")
    if isinstance(push, Shove):
        across, up = (units.column(name) for name in ("vx", "vy"))
        words = f"frame {frame}: vx {across.shown(x):+.4g}, vy {up.shown(y):+.4g} {across.unit}"
        return words.replace("-", "−")
    return f"frame {frame}: x {x:+.2f}, y {y:+.2f}".replace("-", "−")


def edit_words(lane: str) -> str:
    """What an edit in a lane is called."""
    if lane in KEYS:
        return f"Press of {lane}"
    return MOMENT_WORDS.get(lane.split()[0], f"Stick of {lane}")


class LaneEditor:
    """The lanes that the take uses or the user has added, and the current and selected ones."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.reset()

    def reset(self) -> None:
        """Begin with the lanes of another drill."""
        self.selected: tuple[str, Press | Event] | None = None
        self.current = 0
        # Empty lanes that the user has added.
        self._added: list[str] = []

    @property
    def take(self) -> Take | None:
        """The take of the current drill."""
        drill = self.session.drill
        return None if drill is None else drill.take

    @property
    def lanes(self) -> list[str]:
        """The names of the lanes: keys, then the axes of sticks, of the mouse, and of shoves."""
        take = self.take
        if take is None:
            return []
        sticks = [stick for stick in (*STICKS, *MOMENTS) if getattr(take, stick) or stick in self._added]
        return [key for key in KEYS if getattr(take.keys, key) or key in self._added] + [
            f"{stick} {axis}" for stick in sticks for axis in "xy"
        ]

    def add_lane(self, name: str) -> None:
        """Add an empty lane to drag on."""
        self._added.append(name)
        self.current = next(place for place, lane in enumerate(self.lanes) if lane.split()[0] == name)
        if name in MOMENTS:
            words = "Drag up or down on one of its two lanes to add one, or press Insert to add it at the frame cursor."
        else:
            words = f"Drag on the lane “{name}” to hold it, or press Insert to hold it at the frame cursor."
        self.session.message.emit(words)

    def remove_lane(self, name: str) -> None:
        """Remove a lane with everything in it; undo restores it."""
        take = self.take
        self._added = [other for other in self._added if other != name]
        if take is not None:
            emptied = takes.with_presses(take, name, ()) if name in KEYS else take.model_copy(update={name: ()})
            self.session.set_take(f"Remove the lane {name}", emptied)
        self.selected = None

    def put_press(self, lane: str, take: Take, old: Press | None, press: Press, *, joins: bool = False) -> None:
        """Add a press or replace `old`, and select it."""
        after = takes.with_press(take, lane, press, instead_of=old)
        self.session.set_take(f"Press of {lane}", after, joins=joins)
        # If it has met another press, the two have merged.
        merged = next(other for other in takes.presses_of(after, lane) if other.start <= press.start < other.end)
        self.selected = (lane, merged)

    def put_push(
        self, stick: Stick, lane: str, take: Take, old: Event | None, push: Event, *, joins: bool = False
    ) -> Event:
        """Add a push or replace `old`, and select it; returns it as it was placed."""
        after = takes.with_push(take, stick, push, instead_of=old)
        self.session.set_take(edit_words(lane), after, joins=joins)
        placed = next(
            other for other in takes.pushes_of(after, stick) if other.frame == min(max(push.frame, 0), take.length - 1)
        )
        self.selected = (lane, placed)
        return placed

    def choose_lane(self, by: int) -> None:
        """Go to the next or previous lane, and select its first press."""
        if self.lanes:
            self.current = (self.current + by) % len(self.lanes)
            self.selected = None
            self.choose_next(1)

    def _things(self, lane: str) -> list[Press | Event]:
        assert self.take is not None
        return (
            list(takes.presses_of(self.take, lane))
            if lane in KEYS
            else list(takes.pushes_of(self.take, cast(Stick, lane.split()[0])))
        )

    def choose_next(self, by: int) -> None:
        """Select the next or previous press of the lane."""
        if not self.lanes:
            return
        lane = self.lanes[min(self.current, len(self.lanes) - 1)]
        things = self._things(lane)
        if not things:
            return
        at = (
            things.index(self.selected[1])
            if self.selected is not None and self.selected[0] == lane and self.selected[1] in things
            else -1
            if by > 0
            else 0
        )
        thing = things[(at + by) % len(things)]
        self.selected = (lane, thing)
        self.session.message.emit(
            f"{lane}: {press_words(thing) if isinstance(thing, Press) else push_words(thing, self.session.units)}"
        )

    def insert(self) -> None:
        """Insert a press or a push at the frame cursor."""
        take = self.take
        if take is None or not self.lanes:
            return
        lane = self.lanes[min(self.current, len(self.lanes) - 1)]
        frame = min(int(self.session.time_at(self.session.cursor) * take.rate + 1e-6), take.length - 1)
        if lane in KEYS:
            self.put_press(lane, take, None, takes.fitted(take, frame, frame + NEW_PRESS))
        else:
            stick = cast(Stick, lane.split()[0])
            (x, y), most = takes.stick_at(take, stick, frame), USUAL[stick]
            push = EVENTS[stick](frame, *((most, y) if lane.endswith("x") else (x, most)))
            self.put_push(stick, lane, take, None, push)

    def remove_selected(self) -> None:
        """Remove the selected press or push."""
        take = self.take
        if self.selected is None or take is None:
            return
        lane, thing = self.selected
        self.selected = None
        if lane.split()[0] not in self._added:
            self._added.append(lane.split()[0])
        if isinstance(thing, Press):
            self.session.set_take(f"Remove a press of {lane}", takes.without_press(take, lane, thing))
        else:
            self.session.set_take(
                f"Remove a {MOMENT_WORDS.get(lane.split()[0], f'push of {lane}').lower()}",
                takes.without_push(take, cast(Stick, lane.split()[0]), thing),
            )

    def nudge(self, by: int, part: Part) -> None:
        """Move the selected press or push, or one end of a press, by frames."""
        take = self.take
        assert take is not None
        assert self.selected is not None
        lane, thing = self.selected
        if not isinstance(thing, Press):
            self.put_push(
                cast(Stick, lane.split()[0]),
                lane,
                take,
                thing,
                thing._replace(frame=max(0, thing.frame + by)),
                joins=True,
            )
            return
        if part == "middle":
            press = takes.moved(take, thing, by)
        elif part == "end":
            press = takes.fitted(take, thing.start, max(thing.end + by, thing.start + 1))
        else:
            press = takes.fitted(take, min(max(thing.start + by, 0), thing.end - 1), thing.end)
        self.put_press(lane, take, thing, press, joins=True)
        self.session.message.emit(f"{lane}: {press_words(press)}")
