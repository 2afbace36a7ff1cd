"""Messages are read back as sent, and everything else is refused."""

import math
import random
import struct

import pytest
from hypothesis import given
from hypothesis import strategies as some
from pythonosc.osc_bundle_builder import IMMEDIATELY, OscBundleBuilder
from pythonosc.osc_message import OscMessage
from pythonosc.osc_message_builder import OscMessageBuilder

from cinetica.link.messages import FROM_DESK, FROM_GAME, LARGEST, MOST_COUNTED, BadMessage, decode, encode

TEXTS = some.text(some.characters(codec="utf-8", categories=("L", "N", "P")), max_size=40).filter(str.isprintable)
VALUES = {
    "i": some.integers(0, MOST_COUNTED),
    "d": some.floats(-1e9, 1e9),
    "s": TEXTS,
    "v": some.one_of(some.booleans(), some.floats(-1e9, 1e9), some.integers(0, MOST_COUNTED), TEXTS),
}


@some.composite
def messages(draw):
    known = draw(some.sampled_from([FROM_DESK, FROM_GAME]))
    message = known[draw(some.sampled_from(sorted(known)))]
    kinds = [each.kind for each in message.arguments]
    kinds += [each.kind for each in message.rest] * draw(some.integers(0, 3))
    return known, message, [draw(VALUES[kind]) for kind in kinds]


@given(messages())
def test_every_message_is_read_back_as_it_was_sent(drawn):
    known, message, arguments = drawn
    assert decode(encode(message, *arguments), known) == [(message.name, arguments)]


def built(address, *arguments):
    builder = OscMessageBuilder(address)
    for kind, value in arguments:
        builder.add_arg(value, kind)
    return builder.build().dgram


def test_a_float_is_a_number_and_a_bundle_is_its_messages():
    bundle = OscBundleBuilder(IMMEDIATELY)
    bundle.add_content(OscMessage(built("/cinetica/mark", ("i", 3), ("s", "jump"))))
    bundle.add_content(OscMessage(built("/cinetica/pong", ("i", 4))))
    assert decode(bundle.build().dgram, FROM_GAME) == [("mark", [3, "jump"]), ("pong", [4])]
    hello = built("/cinetica/hello", ("i", 1), ("s", "Game"), ("f", 60.0), ("i", 5))
    assert decode(hello, FROM_GAME) == [("hello", [1, "Game", 60.0, 5])]


@pytest.mark.parametrize(
    ("datagram", "why"),
    [
        (b"", "not of ours"),
        (b"/other/hello\0\0\0\0,\0\0\0", "not of ours"),
        (built("/cinetica/nothing", ("i", 1)), "unknown address"),
        (built("/cinetica/ping", ("i", 1)), "unknown address"),
        (built("/cinetica/pong", ("i", -1)), "ping is"),
        (built("/cinetica/pong", ("s", "1")), "ping is"),
        (built("/cinetica/pong"), "0 arguments"),
        (built("/cinetica/pong", ("i", 1), ("i", 2)), "2 arguments"),
        (built("/cinetica/pong", ("T", True)), "ping is"),
        (built("/cinetica/mark", ("i", 1), ("s", "a\nb")), "word is"),
        (built("/cinetica/mark", ("i", 1), ("s", "x" * 101)), "word is"),
        (built("/cinetica/hello", ("i", 1), ("s", "G"), ("d", math.nan), ("i", 1)), "tick_rate is"),
        (built("/cinetica/hello", ("i", 1), ("s", "G"), ("d", math.inf), ("i", 1)), "tick_rate is"),
        (built("/cinetica/hello", ("i", 1), ("s", "G"), ("d", 2e9), ("i", 1)), "tick_rate is"),
        (built("/cinetica/changed", ("i", 1), ("s", "a"), ("N", None), ("s", "b")), "value is"),
        (b"/cinetica/pong\0\0,i\0\0\0", "no OSC"),
        (b"/cinetica/mark\0\0,is\0\0\0\0\1\xff\xfe\xfd\xfc", "no OSC"),
        (b"/cinetica/" + b"x" * LARGEST, "too many"),
        (b"#bundle\0" + b"\0" * 8 + struct.pack(">i", 2**31 - 1), "no OSC"),
    ],
)
def test_malformed_messages_are_refused_with_a_reason(datagram, why):
    with pytest.raises(BadMessage, match=why):
        decode(datagram, FROM_GAME)


def test_texts_and_numbers_at_their_limits_are_accepted():
    mark = built("/cinetica/mark", ("i", MOST_COUNTED), ("s", "x" * 100))
    assert decode(mark, FROM_GAME) == [("mark", [MOST_COUNTED, "x" * 100])]
    changed = built("/cinetica/changed", ("i", 0), ("s", "a"), ("d", -1e9), ("s", "b"))
    assert decode(changed, FROM_GAME) == [("changed", [0, "a", -1e9, "b"])]


def test_10000_damaged_messages_raise_nothing_else():
    chance = random.Random(5)
    good = [
        encode(FROM_GAME["hello"], 1, "Game", 60.0, 7),
        encode(FROM_GAME["frame"], 1, 0, 0, 0.0, 0.01, 1.0, 2.0, 3.0, 4.0, 1, 0),
        encode(FROM_GAME["knows"], 0, 2, "a", "b"),
        encode(FROM_GAME["changed"], 1, "top_speed", 7.5, "me"),
    ]
    refused = 0
    for _ in range(10_000):
        datagram = bytearray(chance.choice(good))
        for _ in range(chance.randrange(1, 6)):
            what, at = chance.random(), chance.randrange(len(datagram))
            if what < 0.5:
                datagram[at] = chance.randrange(256)
            elif what < 0.75:
                del datagram[at:]
                datagram += b"\0"
            else:
                datagram[at:at] = chance.randbytes(chance.randrange(1, 9))
        try:
            decode(bytes(datagram), FROM_GAME)
        except BadMessage:
            refused += 1
    assert refused > 5000
