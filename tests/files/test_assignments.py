"""Assignments read from texts in several languages, as somebody who knows the language would read them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.files.assignments import UnreadLine, read_assignments, unit_in

C = """/* the courier: a = 9; */
#define JUMP_FORCE 12.0f /* px/frame */
#define GRAVITY (30 / 60.0) // px/frame^2
#include "other = 3"
static const float max_run = 3.5f, slow = 1.f; // px/frame
static const int buffer_frames = 6; static const int coyote_frames = 4;
const double turn = 2 * max_run;
const char *name = "wren = 7"; // = 8
"""
CSHARP = """namespace Harbour {
public class Courier : Body {
    public const float TopSpeed = 300f; // px/s
    [SerializeField] private float jumpVel = -1_000.5f;
    public float Gravity { get; set; } = 30 / 60;
    readonly decimal Coyote = 0.1m;
    bool airControl = true;
}}
"""
LUA = """-- the courier
local speed = 120 -- px/s
local tick = 1 / 60
return { jump_speed = 2 * speed, ["gravity"] = 900.0, coyote = 6 * tick, name = "Wren", }
"""
SCRIPT = """export const MAX_RUN = 90; // px/s
let gravity = 0.5, jump = -10.0 / 2;
const courier = { topSpeed: 300, coyoteMs: 100 };
"""
RUST = """pub const TOP_SPEED: f32 = 7.5;
const JUMP: f64 = 2.0 * 6.0_f64; // u/s
let mut grip: f32 = 30 as f32;
"""
PYTHON = """x: float = -10
a, b = 1, 2.5
speed = 30 / 60; jump = -10.0 / 2  # px/frame
class Courier:
    top_speed: float = 300  # px/s
    def __init__(self):
        self.gravity = 2 * speed
numbers = {"coyote": 0.1, "eager": True}
made = Courier(friction=7.5)
if (hops := 5): pass
both = (taps := 3)
"""
DECLARED = """extends Body
@export var speed: float = 300.0 # px/s
var jump_vel := -400.0
const GRAVITY = 30 / 60.0
var x: float = -10
"""
LINES = "; the courier\n[courier]\ntop_speed = 7.5 ; u/s\njump=12\n"
NESTED = "top_speed: 7.5 # u/s\njump:\n  speed: 14.5\n  coyote_ms: 60\n"
JAVA = "public class P { public static final double TOP_SPEED = 7.5; // u/s\n private int airJumps = 0x10; }\n"
KOTLIN = "val topSpeed = 7.5f\nconst val JUMP: Float = 12f // u/s\n"
TYPED = "class P { speed: number = 5; jump: number = 12; declared: number; }"


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        (C, {"JUMP_FORCE": 12, "GRAVITY": 0.5, "max_run": 3.5, "slow": 1, "buffer_frames": 6, "coyote_frames": 4,
             "turn": 7, "name": "wren = 7"}),
        (CSHARP, {"TopSpeed": 300, "jumpVel": -1000.5, "Gravity": 0.5, "Coyote": 0.1, "airControl": True}),
        (LUA, {"speed": 120, "tick": 1 / 60, "jump_speed": 240, "gravity": 900, "coyote": 0.1, "name": "Wren"}),
        (SCRIPT, {"MAX_RUN": 90, "gravity": 0.5, "jump": -5, "topSpeed": 300, "coyoteMs": 100}),
        (RUST, {"TOP_SPEED": 7.5, "JUMP": 12, "grip": 30}),
        (PYTHON, {"x": -10, "a": 1, "b": 2.5, "speed": 0.5, "jump": -5, "top_speed": 300, "gravity": 1, "coyote": 0.1,
                  "eager": True, "friction": 7.5, "hops": 5, "both": 3, "taps": 3}),
        (DECLARED, {"speed": 300, "jump_vel": -400, "GRAVITY": 0.5, "x": -10}),
        (LINES, {"top_speed": 7.5, "jump": 12}),
        (NESTED, {"top_speed": 7.5, "speed": 14.5, "coyote_ms": 60}),
        (JAVA, {"TOP_SPEED": 7.5, "airJumps": 16}),
        (KOTLIN, {"topSpeed": 7.5, "JUMP": 12}),
        (TYPED, {"speed": 5, "jump": 12}),
        ('[run]\ntop_speed = 300.0 # px/s\n[jump]\nspeed = -540\n', {"top_speed": 300, "speed": -540}),
        ('{"courier": {"maxSpeed": 300, "jump": {"vel": -540}}}', {"maxSpeed": 300, "vel": -540}),
        ("name;value;unit\ntop_speed;7,5;u/s\njump;30/60;u/s\n", {"top_speed": 7.5, "jump": 0.5}),
        ("value\tname\n7.5\ttop_speed\n", {"top_speed": 7.5}),
    ],
)  # fmt: skip
def test_every_assignment_of_a_constant_is_read(text, wanted):
    result = read_assignments(text)
    found = {each.name: each.value for each in result.found}
    assert found == pytest.approx(wanted)
    assert not result.unread


def test_units_are_those_of_the_comment_or_of_the_name():
    units = {each.name: each.unit for text in (C, PYTHON, NESTED) for each in read_assignments(text).found}
    assert units["JUMP_FORCE"] == "px/frame"
    assert units["GRAVITY"] == "px/frame^2"
    assert units["buffer_frames"] == "frames"
    assert units["top_speed"] == "u/s"
    assert units["coyote_ms"] == "ms"
    assert units["turn"] == ""
    named = read_assignments("coyote_ms = 60\ngrip = 3  # px\nlean_deg = 5  # rad\n").found
    assert [each.unit for each in named] == ["ms", "px", "rad"]


@pytest.mark.parametrize(
    ("comment", "unit"),
    [
        ("// px/frame", "px/frame"), ("-- pixels per second", "pixels per second"), ("u/s²: how fast", "u/s²"),
        ("the top speed (px/s)", "px/s"), ("in frames", "frames"), ("how long it takes", ""), ("s", "s"),
        ("as the story goes", ""), ("a share in %", "%"), ("px/s/s", "px/s/s"), ("how far (px)", "px"),
        ("how far px", ""),
    ],
)  # fmt: skip
def test_a_comment_names_a_unit_only_as_a_word_of_its_own(comment, unit):
    assert unit_in(comment) == unit


def test_unreadable_lines_are_listed_with_a_reason():
    text = "const double x = sqrt(2.0);\nfloat y = speed * 2;\nfloat ok = 2;\nfloat z = 1.0 / 0;"
    result = read_assignments(text)
    assert [each.name for each in result.found] == ["ok"]
    assert [each.words for each in result.unread] == [
        "line 1: “const double x = sqrt(2.0);”: “sqrt” is not a constant defined before",
        "line 2: “float y = speed * 2;”: “speed” is not a constant defined before",
        "line 4: “float z = 1.0 / 0;”: it divides by 0, or is too large",
    ]
    # Only names are listed for computed values, and at most 40 letters of a line are shown.
    names = read_assignments("float ok = 2;\nfloat y = speed * slow;\nfloat z = speed;\n").unread
    assert [each.words.partition("”")[0] for each in names] == ["line 2: “float y = speed * slow;"]
    for letters, shown in ((40, "q" * 40), (41, f"{'q' * 39}…")):
        assert f"“{shown}”" in UnreadLine(1, "q" * letters, "why").words
    in_python = read_assignments("import math\nx = math.pi\ny = [1, 2]\nz = 3\n")
    assert [each.line for each in in_python.unread] == [2, 3]
    pairs = read_assignments("pair = 1, 2\nfirst, second = 4, 5\n")
    assert [(each.name, each.value) for each in pairs.found] == [("first", 4), ("second", 5)]
    assert [each.line for each in pairs.unread] == [1]


def test_values_without_a_name_are_left_out():
    result = read_assignments("places = {}\nplaces[i] = 3\nplaces['x'] = 4\n")
    assert {each.name: each.value for each in result.found} == {"x": 4}


def test_whole_numbers_that_many_languages_would_round_are_noted():
    (gravity,) = (each for each in read_assignments(CSHARP).found if each.name == "Gravity")
    assert "30 / 60 divides whole numbers" in gravity.note
    assert not any(each.note for each in read_assignments(PYTHON).found)


def test_earlier_constants_may_be_used_and_the_last_value_counts():
    found = {each.name: each.value for each in read_assignments("int a = 2; int b = a * 3; a = 5; c = a + b;").found}
    assert found == {"a": 5, "b": 6, "c": 11}


@given(st.text(max_size=200))
def test_any_text_is_read_without_an_error(text):
    result = read_assignments(text)
    assert all(isinstance(each.value, int | float | str) for each in result.found)
    assert all(each.why for each in result.unread)


@given(st.dictionaries(st.from_regex(r"[a-z]{3,8}_q", fullmatch=True), st.integers(-999, 999), min_size=1, max_size=6))
def test_whole_numbers_are_read_in_every_notation(numbers):
    for write in (
        lambda: "\n".join(f"{name} = {value}" for name, value in numbers.items()),
        lambda: "\n".join(f"let {name} = {value}; // px" for name, value in numbers.items()),
        lambda: "return {" + ", ".join(f"{name} = {value}" for name, value in numbers.items()) + "} -- s",
        lambda: "\n".join(f"#define {name} ({value})" for name, value in numbers.items()),
    ):
        found = {each.name: each.value for each in read_assignments(write()).found}
        assert found == numbers


@pytest.mark.parametrize(
    ("text", "units"),
    [
        ("name,value\ntop_speed,7.5\n", [""]),
        ("unit,value,id\npx/s,240,top_speed\n", ["px/s"]),
        ("key;value;unit\ntop_speed;7.5;u/s\nshort\ngravity;30\n", ["u/s", ""]),
        ("value,unit\n7.5,u/s\n", []),
    ],
)
def test_rows_of_a_table_have_the_unit_of_their_column_or_none(text, units):
    found = read_assignments(text).found
    assert [each.unit for each in found] == units
    assert [each.value for each in found] == [240.0 if "240" in text else 7.5, 30.0][: len(units)]


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        # A value may continue on the next line, in brackets or after an operator.
        ("float top_speed = (\n 3.0f\n);\n", {"top_speed": 3}),
        ("float top_speed =\n 3.0f;\n", {"top_speed": 3}),
        ("float top_speed = 1 +\n 2;\nfloat grip = 4;\n", {"top_speed": 3, "grip": 4}),
        # An f at the end of a hexadecimal number is a digit.
        ("int flags = 0x1F;\n", {"flags": 31}),
        # Two of five rows are not a table, three of five are.
        ("grip   2\nhops   3\nint a = 1; int b = 2;\nint c = 3;\nint d = 4;\n", {"a": 1, "b": 2, "c": 3, "d": 4}),
        (
            "grip   2\nhops   3\nleap   4\nint a = 1; int b = 2;\nint c = 3; int d = 4;\n",
            {"grip": 2, "hops": 3, "leap": 4},
        ),
        # Assignments inside braces belong to the name before them, until the closing brace.
        ("float grip { get; set; } = 4;\nfloat hops = 5;\n", {"grip": 4, "hops": 5}),
        # A colon without a name before it assigns nothing, and a type after it is not a value.
        (": 5;\ngrip: number;\nhops: 3;\n", {"hops": 3}),
    ],
)
def test_a_statement_ends_where_its_language_ends_it(text, wanted):
    found = read_assignments(text).found
    assert {each.name: each.value for each in found} == wanted
    assert all(each.name in text.splitlines()[each.line - 1] for each in found)
