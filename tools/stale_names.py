"""Find names and files in docstrings and comments that do not exist; part of make lint.

Only what is certainly meant as a name counts: words in backticks, and words in capitals with an underscore.
"""

from __future__ import annotations

import io
import re
import sys
import tokenize
from pathlib import Path

ROOT = Path(__file__).parent.parent
# Names of other programs and of generated code.
FOREIGN = {"python3", "pandas", "DataFrame", "maxRunVel", "velY_per_s", "QWIDGETSIZE_MAX", "MOTION_GROUND"}


def words_and_remarks(source: str) -> tuple[set[str], list[tuple[int, str]]]:
    """The words of the code and of its texts; and the comments and docstrings, each with its line."""
    words, remarks = set[str](), list[tuple[int, str]]()
    for token in tokenize.generate_tokens(io.StringIO(source).readline):
        if token.type == tokenize.COMMENT or token.string.startswith('"""'):
            remarks.append((token.start[0], token.string))
        else:
            words |= set(re.findall(r"\w+", token.string))
    return words, remarks


def main() -> None:
    """Print each stale name as file:line; exit status 1 if there is one."""
    files = [path for folder in ("src", "tests", "tools", "benchmarks") for path in (ROOT / folder).rglob("*.py")]
    read = {path: words_and_remarks(path.read_text()) for path in files}
    known = FOREIGN.union(*(words for words, _ in read.values()), *({path.stem, path.parent.name} for path in files))
    there = {path.name for path in (*files, *(ROOT / "docs").glob("*.md"), *ROOT.glob("*.md"))} | {"coverage.py"}
    stale = []
    for path, (_, remarks) in read.items():
        for line, text in remarks:
            named = {word for each in re.findall(r"`([^`\n]+)`", text) for word in re.findall(r"[A-Za-z_]\w+", each)}
            named |= set(re.findall(r"\b[A-Z]+_[A-Z_]+\b", text))
            named = {name for name in named if name not in known}
            named |= {name for name in re.findall(r"[\w.]+\.(?:py|md)\b", text) if name not in there}
            stale += [f"{path.relative_to(ROOT)}:{line}: there is no {name}" for name in sorted(named)]
    sys.exit("\n".join(stale) or None)


if __name__ == "__main__":
    main()
