"""The messages of the link, each declared once: its address, its arguments, who sends it, and what it means.

Encoding, checking and the tables of docs/link.md follow from the declarations. Open Sound Control 1.0.
"""

from __future__ import annotations

import logging
import math
from dataclasses import dataclass
from typing import Any

from pythonosc.osc_message import OscMessage
from pythonosc.osc_message import ParseError as MessageError
from pythonosc.osc_message_builder import OscMessageBuilder
from pythonosc.osc_packet import OscPacket, ParseError

ROOT = "/cinetica/"
VERSION = 1
# Where the desk listens.
PORT = 9471
# The largest datagram that no router fragments; the longest text; the largest number.
LARGEST, LONGEST, FARTHEST = 1400, 100, 1e9
MOST_COUNTED = 2**31 - 1

Value = float | int | bool | str
# Malformed messages are counted; python-osc would log a line for each.
logging.getLogger().addFilter(lambda record: "pythonosc" not in record.pathname)


class BadMessage(Exception):
    """A datagram that is not one of our messages, and why."""


@dataclass(frozen=True)
class Argument:
    """One argument: its name, its kind, and its meaning.

    Kinds: `i` a whole number from 0, `d` a number (sent as a double; a float is taken, too), `s` a text, `v` the value
    of a number of the tune (a number, a text, or true or false).
    """

    name: str
    kind: str
    meaning: str


@dataclass(frozen=True)
class Message:
    """One kind of message; `rest` is what may follow its arguments any number of times."""

    name: str
    meaning: str
    arguments: tuple[Argument, ...] = ()
    rest: tuple[Argument, ...] = ()

    @property
    def address(self) -> str:
        """The address."""
        return ROOT + self.name

    @property
    def types(self) -> str:
        """The type tags that are sent; `v` stands for `d`, `i`, `s`, `T` or `F`."""
        more = f"({''.join(each.kind for each in self.rest)})…" if self.rest else ""
        return "".join(each.kind for each in self.arguments) + more


def _whole(name: str, meaning: str) -> Argument:
    return Argument(name, "i", meaning)


def _number(name: str, meaning: str) -> Argument:
    return Argument(name, "d", meaning)


def _text(name: str, meaning: str) -> Argument:
    return Argument(name, "s", meaning)


_VERSION = _whole("version", f"of the protocol: {VERSION}")
_RUN = _whole("run", "any number, a new one at each start of the program")
_REQUEST = _whole("request", "the request's number, which `done` confirms")
_COUNT = _whole("count", "grows with every number that is sent")
_NAME = _text("name", "what the game calls the number")
_VALUE = Argument("value", "v", "in the game's conventions")
_TAKE = _whole("take", "the take's number")
_PLACE = (_number("x", "position"), _number("y", "position"), _number("vx", "velocity"), _number("vy", "velocity"))

FROM_GAME = {
    message.name: message
    for message in (
        Message(
            "hello", "Here is a game. Sent four times a second, always.",
            (_VERSION, _text("name", "of the game"), _number("tick_rate", "ticks a second"), _RUN),
        ),
        Message(
            "knows",
            "The numbers that the game knows, so that the desk can name the others. Sent after each hello, or never.",
            (_whole("first", "place of the first name, from 0"), _whole("all", "how many names there are")), (_NAME,),
        ),
        Message(
            "frame", "The body after a tick.",
            (
                _whole("number", "grows by 1 with every frame that is sent"),
                _whole("take", "the take that is played, 0 for none"),
                _whole("row", "ticks since the body was put at its start; the start itself is row 0"),
                _number("time", "s since the game began"),
                _number("dt", "s"), *_PLACE, _whole("grounded", "1 on the ground, else 0"),
                _whole("keys", "those held, as a sum: see below"),
            ),
        ),
        Message(
            "mark", "What happened in a tick, such as `jump`.",
            (_whole("number", "of the frame"), _text("word", "what it was")),
        ),
        Message("got", "Confirms a `number`, or `tune`.", (_COUNT,)),
        Message("done", "Confirms a request, once it is carried out.", (_REQUEST,)),
        Message("pong", "Answers a ping, at once.", (_whole("ping", "its number"),)),
        Message(
            "changed", "A number was changed in the game. Sent again until `took` confirms it.",
            (_COUNT, _NAME, _VALUE, _text("who", "changed it, or where")),
        ),
        Message("ask", "Send all numbers again."),
        Message("bye", "The game is about to end."),
    )
}  # fmt: skip
FROM_DESK = {
    message.name: message
    for message in (
        Message("hello", "Answers each hello.", (_VERSION, _text("name", "of the study"), _RUN)),
        Message("ping", "Answer with a pong. Sent four times a second.", (_whole("ping", "its number"),)),
        Message(
            "tune", "Which tune is live. Its numbers follow.",
            (_COUNT, _text("name", "of the tune"), _whole("numbers", "how many there are")),
        ),
        Message("number", "One number of the tune that is live.", (_COUNT, _NAME, _VALUE)),
        Message("took", "Confirms a `changed`.", (_COUNT,)),
        Message(
            "reset", "Put the body at the drill's start.", (_REQUEST, *_PLACE, _number("heading", "angle it faces")),
        ),
        Message(
            "solids", "The drill's solids, for a game that builds its course from them. Others only confirm it.",
            (_REQUEST, _whole("first", "place of the first one, from 0"), _whole("all", "how many there are")),
            tuple(_number(side, "side") for side in ("left", "bottom", "right", "top")),
        ),
        Message("pause", "Stop, or go on.", (_REQUEST, _whole("on", "1 stops, 0 goes on"))),
        Message("step", "Run this many ticks and pause.", (_REQUEST, _whole("ticks", ""))),
        Message(
            "take", "A take follows, as rows of `hands`.",
            (_REQUEST, _TAKE, _number("rate", "its frames a second"), _whole("frames", "how many"),
             _whole("rows", "how many rows of hands there are")),
        ),
        Message(
            "hands", "Hands from a frame on, until the next row. The first row is of frame 0.",
            (_REQUEST, _TAKE, _whole("first", "place of the first row, from 0")),
            (_whole("frame", ""), _whole("keys", "those held, as a sum"), _number("x", "of the stick, −1 to 1"),
             _number("y", "of the stick"), _number("aim_x", "of the second stick"), _number("aim_y", "")),
        ),
        Message("play", "Put the body at the start that `reset` gave last, and play the take.", (_REQUEST, _TAKE)),
        Message("bye", "The desk is about to end."),
    )
}  # fmt: skip


def encode(message: Message, *arguments: Value) -> bytes:
    """A message as a datagram; the arguments are those of its declaration."""
    builder = OscMessageBuilder(address=message.address)
    for argument, value in zip(_expected(message, len(arguments)), arguments, strict=True):
        builder.add_arg(value, _tag_of(argument.kind, value))
    return bytes(builder.build().dgram)


def _tag_of(kind: str, value: Value) -> str:
    if kind != "v":
        return kind
    if isinstance(value, bool):
        return "T" if value else "F"
    return "s" if isinstance(value, str) else "i" if isinstance(value, int) else "d"


def _expected(message: Message, count: int) -> list[Argument]:
    """The arguments of a message that takes this many; BadMessage if it has others."""
    expected = list(message.arguments)
    over = count - len(expected)
    if over < 0 or (over and not message.rest) or (message.rest and over % len(message.rest)):
        raise BadMessage(f"{message.name} has {count} arguments")
    return expected + list(message.rest) * (over // len(message.rest) if message.rest else 0)


def decode(datagram: bytes, known: dict[str, Message]) -> list[tuple[str, list[Any]]]:
    """The messages of a datagram (one, or those of a bundle), checked, by name; BadMessage if any is not ours."""
    if len(datagram) > LARGEST:
        raise BadMessage(f"{len(datagram)} bytes are too many")
    if not datagram.startswith((ROOT.encode(), b"#bundle\0")):
        raise BadMessage("not of ours")
    try:
        messages = [timed.message for timed in OscPacket(datagram).messages]
    except (ParseError, MessageError, ValueError, RecursionError, IndexError, OverflowError) as error:
        raise BadMessage(f"no OSC: {error}") from error
    if not messages:
        raise BadMessage("no OSC: nothing in it")
    return [_checked(message, known) for message in messages]


def _checked(received: OscMessage, known: dict[str, Message]) -> tuple[str, list[Any]]:
    message = known.get(received.address.removeprefix(ROOT)) if received.address.startswith(ROOT) else None
    if message is None:
        raise BadMessage("unknown address")
    given = received.params
    expected = _expected(message, len(given))
    return message.name, [_value(argument, value) for argument, value in zip(expected, given, strict=True)]


def _value(argument: Argument, value: Any) -> Any:
    """An argument, checked for its type and its range."""
    match argument.kind:
        case "i" if type(value) is int and 0 <= value <= MOST_COUNTED:
            return value
        case "d" if _is_number(value):
            return float(value)
        case "s" if _is_text(value):
            return value
        case "v" if type(value) is bool or _is_number(value) or _is_text(value):
            return value
    raise BadMessage(f"{argument.name} is {str(value)[:40]!r}")


def _is_number(value: Any) -> bool:
    return type(value) in (int, float) and math.isfinite(value) and abs(value) <= FARTHEST


def _is_text(value: Any) -> bool:
    return type(value) is str and len(value) <= LONGEST and value.isprintable()
