"""Studies as JSON (RFC 8259), and what is wrong with one that is not, in words."""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any, cast

from pydantic import BaseModel, TypeAdapter, ValidationError

from cinetica.files.writing import write_atomically
from cinetica.model.clock import CLOCK_PARAMETERS
from cinetica.model.study import VERSION, Drill, Study
from cinetica.model.tune import PARAMETERS, Tune

LARGEST = 64 * 2**20
MOST_FAULTS = 20
_DECLARED = {parameter.id: parameter for parameter in (*PARAMETERS, *CLOCK_PARAMETERS)}


class Refused(Exception):
    """A file or a value that cannot be taken; `faults` has one plain line for each reason."""

    def __init__(self, faults: Iterable[str]) -> None:
        self.faults = list(faults)
        super().__init__("\n".join(self.faults))


def read_study(path: Path) -> Study:
    """The study in a file; Refused, with place and reason of every fault, if there is none."""
    try:
        if path.stat().st_size > LARGEST:
            raise Refused([f"{path}: larger than {LARGEST // 2**20} MiB; a study is a small text file"])
        content = path.read_bytes()
    except OSError as error:
        raise Refused([f"{path}: {error.strerror or error}"]) from error
    return parse_study(content, str(path))


def parse_study(content: bytes | str, source: str) -> Study:
    """The study in a JSON text; `source` names it in the faults."""
    try:
        return Study.model_validate_json(content)
    except ValidationError as error:
        raise Refused(describe(error, source, content)) from error


def study_text(study: Study) -> str:
    """The study as JSON, without what has its default."""
    content = study.model_dump(mode="json", exclude_defaults=True)
    return json.dumps(content, ensure_ascii=False, indent=1) + "\n"


def write_study(study: Study, path: Path) -> None:
    """OSError if the file cannot be written; an old one then stands."""
    write_atomically(path, study_text(study).encode())


def schema() -> dict[str, Any]:
    """The JSON Schema of a study file."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Study.model_json_schema()}


def describe(error: ValidationError, source: str, content: bytes | str = b"") -> list[str]:
    """One line for each fault: where it is and what would be right."""
    faults = error.errors(include_url=False, include_context=True)
    named = _names(content) if any(fault["type"] != "json_invalid" for fault in faults) else {}
    version = named.get(("version",))
    if isinstance(version, int) and version > VERSION:
        return [f"{source}: written by a newer Cinetica (version {version} of the format); this one reads version {VERSION}"]
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
    document = TypeAdapter(Any).validate_json(content)
    if not isinstance(document, dict):
        return found
    found[("version",)] = document.get("version")
    for kind in ("tunes", "drills"):
        things = document.get(kind)
        for place, thing in enumerate(things if isinstance(things, list) else ()):
            if isinstance(thing, dict):
                found[(kind, place, "name")] = thing.get("name")
    return found


def _meant(place: tuple[Any, ...]) -> str:
    model: Any = Study
    for part in place[:-1]:
        if isinstance(part, str):
            model = _model_of(model, part)
    if not (isinstance(model, type) and issubclass(model, BaseModel)):
        return ""
    known = list(model.model_fields)
    close = difflib.get_close_matches(str(place[-1]), known, n=1)
    return f"; did you mean {close[0]}?" if close else f"; known here: {', '.join(known)}"


def _model_of(model: Any, key: str) -> Any:
    if key in ("tunes", "drills"):
        return Tune if key == "tunes" else Drill
    field = model.model_fields.get(key) if hasattr(model, "model_fields") else None
    return field.annotation if field is not None else None


def _lower(message: str) -> str:
    return message.replace("Input should be", "must be").replace("Value error, ", "")


def _shown(value: Any) -> str:
    try:
        text = json.dumps(value, ensure_ascii=False)
    except (TypeError, ValueError, RecursionError):
        text = str(type(value).__name__)
    return text if len(text) <= 60 else text[:57] + "..."
