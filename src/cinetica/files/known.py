"""Studies that were found valid before: what a file says is then taken as it stands, without being validated again.

They lie in the cache, each under the digest of its file's bytes, in a folder named after the declarations that they
were validated by. To put one together takes a hundredth of the time of validating the first one, most of which goes
into loading pydantic.
"""

from __future__ import annotations

import hashlib
import io
import os
import pickle
from pathlib import Path
from typing import Any

from cinetica.files.writing import write_atomically
from cinetica.machine.cache import cache_folder
from cinetica.model import study as declared
from cinetica.model.study import Study

# A file of more bytes has long takes: to keep it would take longer than to save it.
LARGEST = 2**17
KEPT = 16
MODELS = "cinetica.model."
SOURCES = tuple(sorted(Path(declared.__file__).parent.glob("*.py")))


# What comes of a pickle that is not one of ours.
AMISS = (pickle.UnpicklingError, AttributeError, EOFError, ImportError, IndexError, KeyError, TypeError, ValueError)


class _Models(pickle.Unpickler):
    """It makes nothing but what a study is made of, whatever it reads."""

    def find_class(self, module: str, name: str) -> Any:
        # By a name with dots in it what a module has imported can be reached: what was found tells where it is from.
        found = super().find_class(module, name) if module.startswith(MODELS) else None
        if not (isinstance(found, type) and found.__module__.startswith(MODELS)):
            raise pickle.UnpicklingError(f"{module}.{name} is no part of a study")
        return found


def _folder() -> Path:
    return cache_folder("studies", SOURCES)


def _place(content: bytes) -> Path:
    return _folder() / hashlib.sha256(content).hexdigest()


def recalled(content: bytes) -> Study | None:
    """The study in these bytes, if they were found valid before."""
    if len(content) > LARGEST:
        return None
    place = _place(content)
    try:
        digest, _, kept = place.read_bytes().partition(b"\n")
        if digest != hashlib.sha256(kept).hexdigest().encode():
            return None
        found = _Models(io.BytesIO(kept)).load()
        # What is opened often is not the oldest.
        os.utime(place)
    except (OSError, *AMISS):
        return None
    return found if isinstance(found, Study) else None


def remember(content: bytes, study: Study) -> None:
    """Bytes that were read as this study. Where nothing can be kept, they are validated again."""
    if len(content) > LARGEST:
        return
    kept = pickle.dumps(study)
    place = _place(content)
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(place, hashlib.sha256(kept).hexdigest().encode() + b"\n" + kept, private=True)
        _forget_the_oldest(place.parent)
    except OSError:
        return


def _forget_the_oldest(folder: Path) -> None:
    found = sorted(os.scandir(folder), key=lambda entry: entry.stat().st_mtime)
    for entry in found[:-KEPT]:
        Path(entry.path).unlink(missing_ok=True)
