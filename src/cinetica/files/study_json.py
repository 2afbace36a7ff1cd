"""Studies as JSON (RFC 8259), and descriptions of what is wrong with an invalid one."""

from __future__ import annotations

import difflib
import json
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any, cast, get_type_hints

from pydantic import ValidationError
from pydantic_core import from_json

from cinetica.files.atomic_write import write_atomically
from cinetica.files.reading import Refused, read_bytes
from cinetica.model.base import FrozenModel
from cinetica.model.clock import CLOCK_PARAMETERS
from cinetica.model.study import FORMAT, VERSION, Drill, Study
from cinetica.model.text import FROM_FILE
from cinetica.model.tune import PARAMETERS, Tune

LARGEST = 16 * 2**20
MOST_FAULTS = 20
# The most faults that are listed; more would cost too much time and memory.
TOO_MANY_TO_LIST = 20_000
# What a hostile file could fill the memory with, by the character that comes with each: values and named values.
MOST = {
    b",": (600_000, "values"),
    b"[": (300_000, "lists"),
    b"{": (100_000, "objects"),
    b":": (200_000, "named values"),
}
# For each older version of the format, the function that converts it to the next. There is none yet.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}
_DECLARED = {parameter.id: parameter for parameter in (*PARAMETERS, *CLOCK_PARAMETERS)}


def read_study(path: Path) -> Study:
    """The study in a file; Refused, with place and reason of every fault, if it is invalid."""
    return parse_study(read_bytes(path, LARGEST, "a study is a small text file"), str(path))


def parse_study(content: bytes | str, source: str) -> Study:
    """The study in a JSON text; `source` is its name in error messages."""
    _check_size(content, source)
    try:
        return Study.model_validate_json(content, context=FROM_FILE)
    except ValidationError as error:
        migrated = _migrated(content)
        if migrated is None:
            raise Refused(describe(error, source, content)) from error
    try:
        return Study.model_validate_json(migrated, context=FROM_FILE)
    except ValidationError as error:
        raise Refused(describe(error, source, migrated)) from error


def _check_size(content: bytes | str, source: str) -> None:
    """Refuse a text that is too large for a study, before parsing it."""
    raw = content if isinstance(content, bytes) else content.encode(errors="surrogatepass")
    for character, (most, noun) in MOST.items():
        if raw.count(character) > most:
            raise Refused([f"{source}: more than {most} {noun}, which is more than a study can have"])


def _migrated(content: bytes | str) -> str | None:
    """A document of an older version converted to this one; None if it is not of a known older version."""
    document = _document(content)
    version = document.get("version")
    if document.get("format") != FORMAT or not isinstance(version, int) or version not in MIGRATIONS:
        return None
    while version in MIGRATIONS:
        document = MIGRATIONS[version](document) | {"version": version + 1}
        version += 1
    return json.dumps(document)


class StudyText:
    """A study as JSON, without defaults: a line for each group of a tune and each part of a drill.

    The text of tunes and drills that are the same objects as the last time is reused, so that saving a study with long
    takes every few seconds costs nothing.
    """

    def __init__(self) -> None:
        self._texts: dict[int, tuple[object, str]] = {}

    def of(self, study: Study) -> str:
        """The text of a study."""
        kept: dict[int, tuple[object, str]] = {}

        def listed(things: Iterable[Any]) -> str:
            for thing in things:
                found = self._texts.get(id(thing))
                kept[id(thing)] = found if found and found[0] is thing else (thing, _lines(thing, 2))
            return ",".join(f"\n  {kept[id(thing)][1]}" for thing in things)

        parts = [f'"{key}": {_compact(value)}' for key, value in _dumped(study, exclude=_LISTS).items()]
        parts += [f'"{key}": [{listed(things)}\n ]' for key in _LISTS if (things := getattr(study, key))]
        self._texts = kept
        return "{\n " + ",\n ".join(parts) + "\n}\n"


_LISTS = ("tunes", "drills", "milestones", "logs")


def _dumped(thing: FrozenModel, exclude: Iterable[str] = ()) -> dict[str, Any]:
    return thing.model_dump(mode="json", exclude_defaults=True, exclude=set(exclude))


def _compact(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)


def _lines(thing: FrozenModel, indent: int) -> str:
    """A line for each field that is not at its default. Long takes need pydantic's own fast serialisation."""
    margin = "\n" + " " * (indent + 1)
    fields = (thing.model_dump_json(exclude_defaults=True, include={field})[1:-1] for field in type(thing).model_fields)
    return "{" + margin + f",{margin}".join(field for field in fields if field) + "\n" + " " * indent + "}"


def study_text(study: Study) -> str:
    """The study as JSON, without defaults."""
    return StudyText().of(study)


def write_study(study: Study, path: Path, *, text: StudyText | None = None) -> None:
    """Write the study and keep the old file as a backup. OSError if it fails; the old file is then intact."""
    content = (text or StudyText()).of(study).encode()
    if len(content) > LARGEST:
        raise OSError(
            f"the study is larger than {LARGEST // 2**20} MiB, which is more than can be read again; shorten its takes"
            " or remove drills"
        )
    try:
        parse_study(content, str(path))
    except Refused as refused:
        raise OSError(f"the study could not be read again ({refused.faults[0]}); the file stays as it was") from refused
    write_atomically(path, content, backup=True)


def schema() -> dict[str, Any]:
    """The JSON Schema of a study file."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Study.model_json_schema()}


def describe(error: ValidationError, source: str, content: bytes | str = b"") -> list[str]:
    """One line for each fault: where it is and what would be valid."""
    if error.error_count() > TOO_MANY_TO_LIST:
        return [f"{source}: not a study: {error.error_count()} faults"]
    faults = error.errors(include_url=False)
    named = _names(content) if any(fault["type"] != "json_invalid" for fault in faults) else {}
    version = named.get(("version",))
    if isinstance(version, int) and version > VERSION:
        return [
            f"{source}: written by a newer Cinetica (version {version} of the format); this one reads version {VERSION}"
        ]
    lines = [f"{source}: {_fault(cast(Mapping[str, Any], fault), named)}" for fault in faults[:MOST_FAULTS]]
    if len(faults) > MOST_FAULTS:
        lines.append(f"{source}: and {len(faults) - MOST_FAULTS} more faults")
    return lines


def _fault(fault: Mapping[str, Any], named: Mapping[tuple[Any, ...], Any]) -> str:
    place = tuple(fault["loc"])
    if fault["type"] == "json_invalid":
        return f"not JSON: {fault['ctx']['error']}"
    where = _place(place, named)
    if fault["type"] == "extra_forbidden":
        return f"{where}: unknown{_meant(place)}"
    if fault["type"] == "missing":
        return f"{where}: missing"
    if fault["type"] == "value_error":
        return f"{where}: {fault['ctx']['error']}"
    declared = _DECLARED.get(".".join(str(part) for part in place[-2:]))
    right = f"must be {declared.allowed}" if declared else _lower(fault["msg"])
    return f"{where}: {_shown(fault['input'])} {'is not allowed; ' if declared else ''}{right}"


def _place(place: tuple[Any, ...], named: Mapping[tuple[Any, ...], Any]) -> str:
    """`tunes[0] (Wren).drive.top_speed`, or the document itself."""
    text = ""
    for count, part in enumerate(place, 1):
        text += f"[{part}]" if isinstance(part, int) else f"{'.' if text else ''}{part}"
        name = named.get((*place[:count], "name"))
        if isinstance(part, int) and isinstance(name, str):
            text += f" ({name})"
    return text or "the document"


def _names(content: bytes | str) -> dict[tuple[Any, ...], Any]:
    """Names of tunes and drills, and the version, by place, as far as a faulty document has them."""
    found: dict[tuple[Any, ...], Any] = {}
    document = _document(content)
    found[("version",)] = document.get("version")
    for kind in ("tunes", "drills"):
        things = document.get(kind)
        for place, thing in enumerate(things if isinstance(things, list) else ()):
            if isinstance(thing, dict):
                found[(kind, place, "name")] = thing.get("name")
    return found


def _document(content: bytes | str) -> dict[str, Any]:
    """The JSON object; empty if the text is not one."""
    try:
        document = from_json(content)
    except ValueError:
        return {}
    return document if isinstance(document, dict) else {}


def _meant(place: tuple[Any, ...]) -> str:
    model: Any = Study
    for part in place[:-1]:
        if isinstance(part, str):
            model = _model_of(model, part)
    if not (isinstance(model, type) and issubclass(model, FrozenModel)):
        return ""
    known = list(model.model_fields)
    close = difflib.get_close_matches(str(place[-1]), known, n=1)
    return f"; did you mean {close[0]}?" if close else f"; known here: {', '.join(known)}"


def _model_of(model: Any, key: str) -> Any:
    if key in ("tunes", "drills"):
        return Tune if key == "tunes" else Drill
    return get_type_hints(model).get(key) if isinstance(model, type) and issubclass(model, FrozenModel) else None


def _lower(message: str) -> str:
    return message.replace("Input should be", "must be").replace("Value error, ", "")


def _shown(value: Any) -> str:
    try:
        text = json.dumps(value, ensure_ascii=False)
    except (TypeError, ValueError, RecursionError):
        text = str(type(value).__name__)
    return text if len(text) <= 60 else text[:57] + "..."
