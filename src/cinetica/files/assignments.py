"""What a text in any language assigns: names, constant values, units in comments, and what could not be read.

TOML, JSON and CSV are read by their own parsers, Python by its own grammar, any other language by the tokens that
Pygments finds in it. Constant arithmetic is evaluated; a constant that was named before may be used. Nothing is run.
"""

from __future__ import annotations

import ast
import csv
import io
import json
import re
import tomllib
from collections.abc import Container, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from cinetica.model.parameters import Value
from cinetica.model.quantity import Quantity, evaluated

# Words for number types in a declaration or a cast.
KINDS = frozenset(
    ("float", "double", "int", "long", "short", "decimal", "number", "real", "f32", "f64", "i32", "u32", "i64", "half",
     "Float", "Double", "Int", "Number", "unsigned", "signed", "const", "static", "constexpr", "new", "as")
)  # fmt: skip
TRUTHS = {"true": True, "false": False, "True": True, "False": False}
_UNIT = re.compile(
    r"""(?<![\w/])(?P<unit>
      (?:px|pixels?|u|units?|bodies|°|deg|degrees?|rad|radians?)\s*(?:/|\s+per\s+)\s*(?:s|sec|seconds?|f|frames?|t|ticks?)
        (?:\s*(?:²|\^2|\*\*2|/\s*(?:s|sec|seconds?|f|frames?|t|ticks?)|\s+squared))?
      | ms | s | sec | seconds? | frames? | ticks? | px | pixels? | u | deg | degrees? | ° | rad | radians?
      | % | 1/s | /s
    )(?![\w/²])""",
    re.VERBOSE | re.IGNORECASE,
)
# Endings of a name that indicate a unit.
_ENDING = re.compile(r"_(px|ms|sec|frames|ticks|deg|rad)$|(?<=[a-z0-9])(Px|Ms|Sec|Frames|Ticks|Deg|Rad)$", re.ASCII)
_WHOLE_DIVISION = re.compile(r"(?<![\w.])\d+\s*/\s*\d+(?![\w.])")
_BEGINS = re.compile(r"\s*\"?([^\s\"=:]+)\"?\s*[=:]")
_IN_COLUMNS = re.compile(r"^(?P<name>[A-Za-z_]\w*)\s{2,}(?P<value>\S+)(?:\s{2,}(?P<unit>\S+))?(?:\s|$)")


@dataclass(frozen=True)
class Assigned:
    """A name with its constant value, the unit that a comment or its name says, and the line, counted from 1."""

    name: str
    value: Value
    line: int = 0
    unit: str = ""
    # Notes on how it was read.
    note: str = ""
    # The names of what contains it, such as a table.
    within: str = ""


@dataclass(frozen=True)
class UnreadLine:
    """A line that assigns something that could not be read, and why."""

    line: int
    text: str
    why: str

    @property
    def words(self) -> str:
        """One line for the user."""
        text = " ".join(self.text.split())
        return f"line {self.line}: “{text if len(text) <= 40 else text[:39] + '…'}”: {self.why}"


@dataclass
class Assignments:
    """Everything found, in the order of the text."""

    found: list[Assigned] = field(default_factory=list)
    unread: list[UnreadLine] = field(default_factory=list)


def read_assignments(text: str) -> Assignments:
    """Read a text in any of the formats; the result is empty if it assigns nothing."""
    for read in (_from_json, _from_toml, _from_csv):
        result = read(text)
        if result is not None and (result.found or result.unread):
            return result
    python = _from_python(text) or Assignments()
    if python.found and not python.unread:
        return python
    columns = _from_columns(text)
    if len(columns.found) * 2 > sum(bool(line.strip()) for line in text.splitlines()):
        return columns
    # Some lines of other languages are valid Python with another meaning: `speed = 3 // px`.
    read_so = [python, _from_tokens(text), columns]
    return max(read_so, key=lambda each: (len(each.found), bool(each.unread)))


def unit_in(words: str) -> str:
    """The unit named in a comment: at its beginning, in brackets or after “in”; empty if there is none."""
    plain = words.strip(" \t#/*-;!<>")
    for found in _UNIT.finditer(plain):
        before = plain[: found.start()].rstrip().lower()
        compound = len(found["unit"]) > 2 and "/" in found["unit"]
        if not before or before[-1:] in "([,=" or before.endswith(" in") or before == "in" or compound:
            return " ".join(found["unit"].split())
    return ""


# Formats with a parser of their own


def _from_json(text: str) -> Assignments | None:
    try:
        content = json.loads(text)
    except (ValueError, RecursionError):
        return None
    units = content.get("units") if isinstance(content, dict) else None
    if isinstance(content, dict) and isinstance(content.get("values"), dict):
        content = content["values"]
    return _from_tree(content, text, units if isinstance(units, dict) else {})


def _from_toml(text: str) -> Assignments | None:
    try:
        content = tomllib.loads(text)
    except (ValueError, RecursionError):
        return None
    return _from_tree(content, text, {})


def _from_tree(content: object, text: str, units: Mapping[str, object]) -> Assignments | None:
    """The values in nested dictionaries; lines and comments are looked up in the text."""
    if not isinstance(content, dict):
        return None
    result, lines = Assignments(), text.splitlines()
    begins = {found[1]: number for number, line in reversed([*enumerate(lines, 1)]) if (found := _BEGINS.match(line))}
    for within, name, value in _leaves(content):
        at = begins.get(name, 0)
        unit = str(units.get(name, "")) or (unit_in(_comment_of(lines[at - 1], ("#",))) if at else "")
        if isinstance(value, bool | int | float | str):
            result.found.append(Assigned(name, value, at, unit or _ending(name), within=within))
        elif value is not None:
            result.unread.append(UnreadLine(at, name, "a list is not a number"))
    return result


def _leaves(content: Mapping[str, object], within: str = "") -> Iterator[tuple[str, str, object]]:
    for name, value in content.items():
        if isinstance(value, dict):
            yield from _leaves(value, f"{within} {name}".strip())
        else:
            yield within, name, value


def _from_csv(text: str) -> Assignments | None:
    """Rows of a name and a value, and perhaps a unit; the head names the columns, in any order."""
    for delimiter in (",", ";", "\t"):
        try:
            rows = list(csv.reader(io.StringIO(text), delimiter=delimiter))
        except csv.Error:
            continue
        head = [cell.strip().lower() for cell in rows[0]] if rows else []
        if "value" in head and {"name", "key", "id"} & set(head):
            return _from_rows(head, rows)
    return None


def _from_rows(head: Sequence[str], rows: Sequence[Sequence[str]]) -> Assignments:
    name_at = next(head.index(each) for each in ("name", "key", "id") if each in head)
    value_at, unit_at = head.index("value"), head.index("unit") if "unit" in head else -1
    result = Assignments()
    for line, row in enumerate(rows[1:], 2):
        if len(row) <= max(name_at, value_at):
            continue
        name, written = row[name_at].strip(), row[value_at].strip()
        unit = row[unit_at].strip() if 0 <= unit_at < len(row) else ""
        result.found.append(Assigned(name, _literal(written), line, unit or _ending(name)))
    return result


def _literal(written: str) -> Value:
    """A number, with arithmetic or not, true or false, or else a word."""
    if written.lower() in ("true", "false"):
        return written.lower() == "true"
    try:
        value = evaluated(_number(written.replace(",", ".")), {}).value
    except ValueError:
        return written.strip('"')
    return int(value) if re.fullmatch(r"[-+]?\d+", written) else value


# Python


def _from_python(text: str) -> Assignments | None:
    try:
        tree = ast.parse(text.lstrip("\ufeff"))
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return None
    reader = _PythonReader(text)
    try:
        reader.visit(tree)
    except RecursionError:
        return None
    return reader.result


class _PythonReader(ast.NodeVisitor):
    """Collects assignments, items of dictionaries and named arguments, in the order of the text."""

    def __init__(self, text: str) -> None:
        self.result = Assignments()
        self._lines = text.splitlines()
        self._known: dict[str, Quantity] = {}

    def visit_Assign(self, node: ast.Assign) -> None:
        for target in node.targets:
            if isinstance(target, ast.Tuple) and isinstance(node.value, ast.Tuple):
                for each, value in zip(target.elts, node.value.elts, strict=False):
                    self._take(_last_name(each), value)
            else:
                self._take(_last_name(target), node.value)

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if node.value is not None:
            self._take(_last_name(node.target), node.value)

    def visit_NamedExpr(self, node: ast.NamedExpr) -> None:
        self._take(node.target.id, node.value)

    def _take(self, name: str, value: ast.expr) -> None:
        if isinstance(value, ast.Dict):
            for key, item in zip(value.keys, value.values, strict=True):
                if isinstance(key, ast.Constant) and isinstance(key.value, str):
                    self._take(key.value, item)
            return
        if isinstance(value, ast.Call) and value.keywords:
            for keyword in value.keywords:
                self._take(keyword.arg or "", keyword.value)
            return
        if isinstance(value, ast.NamedExpr):
            self.visit(value)
            value = value.value
        if not name:
            return
        line = self._lines[value.lineno - 1]
        if isinstance(value, ast.Constant) and isinstance(value.value, bool | str):
            self.result.found.append(Assigned(name, value.value, value.lineno))
            return
        try:
            number = evaluated(value, self._known).value
        except ValueError as error:
            self.result.unread.append(UnreadLine(value.lineno, line, str(error)))
            return
        whole = re.fullmatch(r"[-+]?\d+", ast.unparse(value))
        self._known[name] = Quantity(number)
        unit = unit_in(_comment_of(line, ("#",))) or _ending(name)
        self.result.found.append(Assigned(name, int(number) if whole else number, value.lineno, unit))


def _last_name(target: ast.expr) -> str:
    if isinstance(target, ast.Attribute):
        return target.attr
    if isinstance(target, ast.Subscript) and isinstance(target.slice, ast.Constant):
        return str(target.slice.value)
    return target.id if isinstance(target, ast.Name) else ""


# Any other language


@dataclass(frozen=True)
class _Token:
    kind: str
    text: str
    line: int


def _from_tokens(text: str) -> Assignments:
    lines = text.splitlines()
    tokens, comments, defined = _tokens_of(text)
    whole_division = _is_braced(text)
    known: dict[str, Quantity] = {}
    result = Assignments()
    for name, value, line in sorted([*_statements(tokens), *defined], key=lambda each: each[2]):
        written = "".join(token.text for token in value)
        if not name or not value:
            continue
        unit = unit_in(comments.get(value[-1].line, "") or comments.get(line, "")) or _ending(name)
        text_of_line = lines[line - 1] if line <= len(lines) else ""
        if len(value) == 1 and (value[0].kind == "text" or value[0].text in TRUTHS):
            result.found.append(Assigned(name, TRUTHS.get(value[0].text, value[0].text), line, unit))
            continue
        try:
            number = evaluated(_expression(value, known), known).value
        except ValueError as error:
            if any(token.kind == "number" for token in value) or len(value) > 1:
                result.unread.append(UnreadLine(line, text_of_line, str(error)))
            continue
        known[name] = Quantity(number)
        spaced = " ".join(token.text for token in value)
        note = ""
        if whole_division and _WHOLE_DIVISION.search(spaced):
            note = f"{spaced} divides whole numbers, which many languages round down: read as {number:g}"
        whole = bool(re.fullmatch(r"[-+]?\d+", written))
        result.found.append(Assigned(name, int(number) if whole else number, line, unit, note))
    return result


def _is_braced(text: str) -> bool:
    """Whether a text is in one of the languages that divide whole numbers and end statements with a semicolon."""
    return bool(re.search(r";\s*(?://|/\*|$)|^\s*#\s*define\b", text, re.MULTILINE))


def _lexer_name(text: str) -> str:
    """The Pygments lexer that knows comments and strings as they are written here."""
    for name, mark in (
        ("cpp", r"//|/\*|^\s*#\s*(?:define|include)\b|;\s*$"),
        ("lua", r"^\s*--|\blocal\s+\w+\s*=|\s--\s"),
        ("ini", r"^\s*;|^\s*\[[\w .]+\]\s*$"),
    ):
        if re.search(mark, text, re.MULTILINE):
            return name
    return "python"


def _tokens_of(text: str) -> tuple[list[_Token], dict[int, str], list[tuple[str, list[_Token], int]]]:
    """The tokens with line ends, comments by line, and what the preprocessor defines."""
    from pygments.lexers import get_lexer_by_name
    from pygments.token import Comment, Literal

    name = _lexer_name(text)
    if name == "ini":
        return _tokens_of_lines(text)
    found: list[_Token] = []
    comments: dict[int, str] = {}
    defining: set[int] = set()
    # Some lexers split numbers: text outside comments and strings is split again.
    rest, line = "", 1
    for kind, written in get_lexer_by_name(name, stripnl=False, ensurenl=True).get_tokens(text):
        is_text = kind in Literal.String and kind not in Literal.String.Affix
        if kind in Comment or is_text or "\n" in written:
            found += _plain_tokens(rest, line)
            rest = ""
        if kind in Comment.Preproc:
            defining.add(line)
        elif kind in Comment:
            comments[line] = f"{comments.get(line, '')} {written}".strip()
            if written.endswith("\n"):
                found.append(_Token("end", "\n", line))
        elif is_text:
            if inner := written.strip("\"'`"):
                found.append(_Token("text", inner, line))
        elif "\n" in written:
            found.append(_Token("end", "\n", line))
        else:
            rest += written
        line += written.count("\n")
    found += _plain_tokens(rest, line)
    return found, comments, list(_definitions(text, defining, comments))


def _definitions(text: str, lines: Container[int], comments: dict[int, str]) -> Iterator[tuple[str, list[_Token], int]]:
    """What the preprocessor defines in these lines, whose comments are noted."""
    for line, written in enumerate(text.splitlines(), 1):
        if line in lines and (define := re.match(r"\s*#\s*define\s+(\w+)\s+(.+)", written)):
            value, comment = re.fullmatch(r"(.*?)(?:/[/*](.*))?", define[2]).groups()  # type: ignore[union-attr]
            comments.setdefault(line, comment or "")
            yield define[1], list(_plain_tokens(value, line)), line


def _tokens_of_lines(text: str) -> tuple[list[_Token], dict[int, str], list[tuple[str, list[_Token], int]]]:
    """As `_tokens_of`, for lines of `name = value ; comment`."""
    found: list[_Token] = []
    comments: dict[int, str] = {}
    for line, written in enumerate(text.splitlines(), 1):
        comments[line] = _comment_of(written, (";", "#"))
        found += _plain_tokens(re.split(r"[;#]", written)[0], line)
        found.append(_Token("end", "\n", line))
    return found, comments, []


_PLAIN = re.compile(
    r"(?P<number>(?:0[xX][\da-fA-F]+|(?:\d(?:[_']?\d)*\.?(?:\d(?:[_']?\d)*)?|\.\d+)(?:[eE][-+]?\d+)?)"
    r"(?:_?f(?:32|64)|[fFdDmMlLuU]+)?(?!\w))"
    r"|(?P<name>[A-Za-z_$@]\w*)|(?P<sign>:=|::|==|[<>!]=|[-+*/%]=|=>|->|\*\*|[^\s])"
)


def _plain_tokens(text: str, line: int) -> Iterator[_Token]:
    """Numbers, names and signs of a text without strings and comments."""
    for found in _PLAIN.finditer(text):
        yield _Token(str(found.lastgroup), found[0], line + text.count("\n", 0, found.start()))


def _statements(tokens: Sequence[_Token]) -> Iterator[tuple[str, list[_Token], int]]:
    """Each name with the tokens of its value, and its line."""
    opened: list[str] = []
    part: list[_Token] = []
    closed, depth = "", 0
    for token in [*tokens, _Token("end", "\n", 0)]:
        sign = token.text
        if token.kind == "end" and not (depth or (part and part[-1].text in "=+-*/(,")):
            yield from _assigned(part, closed)
            part, closed = [], "" if part else closed
        elif token.kind == "end":
            continue
        elif sign in ";{}" or (sign == "," and not depth):
            yield from _assigned(part, closed)
            closed = ""
            if sign == "{":
                opened.append(next((each.text for each in reversed(part) if each.kind == "name"), ""))
            elif sign == "}" and opened:
                closed = opened.pop()
            part, depth = [], 0
        else:
            depth = max(0, depth + (sign in "([") - (sign in ")]")) if token.kind == "sign" else depth
            part.append(token)


def _assigned(part: Sequence[_Token], closed: str) -> Iterator[tuple[str, list[_Token], int]]:
    """Name, value and line of a statement; nothing if it assigns nothing."""
    signs = [place for place, token in enumerate(part) if token.text in ("=", ":=") and token.kind == "sign"]
    colons = [place for place, token in enumerate(part) if token.text == ":" and token.kind == "sign"]
    if signs:
        left, value = part[: signs[0]], list(part[signs[0] + 1 :])
        if colons and colons[0] < signs[0]:
            left = part[: colons[0]]
    elif colons and colons[0] and len(part) > colons[0] + 1:
        left, value = part[: colons[0]], list(part[colons[0] + 1 :])
        if value[0].kind == "name" and value[0].text not in TRUTHS:
            # A declaration without a value.
            return
    else:
        return
    names = [token.text for token in left if token.kind in ("name", "text")]
    name = names[-1] if names else closed
    if name:
        yield name.lstrip("$@"), value, (left[0].line if left else part[0].line)


def _expression(value: Sequence[_Token], known: Mapping[str, Quantity]) -> ast.expr:
    """Evaluate a constant in Python's grammar; ValueError, with a reason, for anything else."""
    parts: list[str] = []
    for token in value:
        if token.kind == "number":
            parts.append(_digits(token.text))
        elif token.kind == "text":
            raise ValueError(f"“{token.text}” is a text")
        elif token.kind == "name":
            if token.text in KINDS:
                continue
            if token.text in known:
                parts.append(token.text)
            else:
                raise ValueError(f"“{token.text}” is not a constant defined before")
        elif token.text in ("::", "."):
            # The owner of a name does not affect its value.
            if parts and parts[-1] in known:
                parts.pop()
        else:
            parts.append(token.text)
    # The rest of a cast.
    return _number(re.sub(r"\(\s*\)", "", " ".join(parts)))


def _digits(text: str) -> str:
    """A number without the separators and endings of its language."""
    if text[:2] in ("0x", "0X"):
        return str(int(text, 16))
    plain = re.sub(r"_?f(?:32|64)$|[fFdDmMlLuU]+$", "", text).replace("_", "").replace("'", "")
    return plain.lstrip("0") or "0" if re.fullmatch(r"\d+", plain) else plain


def _number(source: str) -> ast.expr:
    try:
        return ast.parse(source.strip(), mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        raise ValueError("this is not a number") from error


# A plain table


def _from_columns(text: str) -> Assignments:
    result = Assignments()
    for number, line in enumerate(text.splitlines(), 1):
        if found := _IN_COLUMNS.match(line):
            unit = unit_in(found["unit"] or "")
            result.found.append(
                Assigned(found["name"], _literal(found["value"]), number, unit or _ending(found["name"]))
            )
    return result


def _comment_of(line: str, marks: Sequence[str]) -> str:
    """The comment of a line."""
    places = [line.find(mark) for mark in marks if mark in line]
    return line[min(places) + 1 :] if places else ""


def _ending(name: str) -> str:
    """The unit at the end of a name."""
    found = _ENDING.search(name)
    return (found[1] or found[2]).lower() if found else ""


def without_unit(name: str) -> str:
    """A name without the unit at its end."""
    return _ENDING.sub("", name)
