"""Reserved words of each language, and text that is safe in comments of all of them."""

from __future__ import annotations

import keyword
import re

# Names that a constant cannot have, by language.
LUA_WORDS = frozenset(
    ("and", "break", "do", "else", "elseif", "end", "false", "for", "function", "goto", "if", "in", "local", "nil",
    "not", "or",
     "repeat", "return", "then", "true", "until", "while")
)  # fmt: skip
C_WORDS = frozenset(
    ("auto", "bool", "break", "case", "char", "const", "continue", "default", "do", "double", "else", "enum", "extern",
    "false", "float", "for",
     "goto", "if", "inline", "int", "long", "register", "restrict", "return", "short", "signed", "sizeof", "static",
     "struct", "switch", "true",
     "typedef", "typeof", "union", "unsigned", "void", "volatile", "while", "alignas", "alignof", "constexpr",
     "nullptr", "static_assert",
     "thread_local", "class", "new", "delete", "this", "template", "namespace", "operator", "private", "public",
     "protected", "virtual",
     "and", "or", "not", "xor", "main", "NULL")
)  # fmt: skip
CSHARP_WORDS = frozenset(
    ("abstract", "as", "base", "bool", "break", "byte", "case", "catch", "char", "checked", "class", "const",
    "continue", "decimal", "default",
     "delegate", "do", "double", "else", "enum", "event", "explicit", "extern", "false", "finally", "fixed", "float",
     "for", "foreach", "goto",
     "if", "implicit", "in", "int", "interface", "internal", "is", "lock", "long", "namespace", "new", "null", "object",
     "operator", "out",
     "override", "params", "private", "protected", "public", "readonly", "ref", "return", "sbyte", "sealed", "short",
     "sizeof", "stackalloc",
     "static", "string", "struct", "switch", "this", "throw", "true", "try", "typeof", "uint", "ulong", "unchecked",
     "unsafe", "ushort", "using",
     "virtual", "void", "volatile", "while", "Equals", "GetHashCode", "GetType", "ToString", "Finalize",
     "MemberwiseClone", "ReferenceEquals")
)  # fmt: skip
PYTHON_WORDS = frozenset((*keyword.kwlist, *keyword.softkwlist))
JAVASCRIPT_WORDS = frozenset(
    ("arguments", "await", "break", "case", "catch", "class", "const", "continue", "debugger", "default", "delete",
     "do", "else", "enum", "eval", "export", "extends", "false", "finally", "for", "function", "if", "implements",
     "import", "in", "instanceof", "interface", "let", "new", "null", "package", "private", "protected", "public",
     "return", "static", "super", "switch", "this", "throw", "true", "try", "typeof", "undefined", "var", "void",
     "while", "with", "yield", "NaN", "Infinity", "Math", "constructor", "prototype", "__proto__")
)  # fmt: skip


def identifier(name: str, reserved: frozenset[str]) -> str:
    """The name as an identifier: letters, digits and _ only, and no reserved word."""
    text = re.sub(r"[^A-Za-z0-9]+", "_", name).strip("_")
    text = text if text and not text[0].isdigit() else f"Tune_{text}".rstrip("_")
    return allowed(text, reserved)


def allowed(name: str, reserved: frozenset[str]) -> str:
    """The name with a trailing _ if it is a reserved word; it is read back as the same name."""
    while name in reserved:
        name += "_"
    return name


def plain_text(text: str) -> str:
    """The text made safe for a comment in any of the languages.

    It is on one line and contains nothing that ends a comment, begins another, or is a directive.
    """
    shown = "".join(letter if letter.isprintable() else " " for letter in text)
    return " ".join(
        shown.replace("\\", "/")
        .replace("*/", "* /")
        .replace("/*", "/ *")
        .replace("]]", "] ]")
        .replace("[[", "[ [")
        .replace("??", "? ?")
        .split()
    )
