"""Where the program keeps what is its own, by the XDG Base Directory Specification."""

from __future__ import annotations

from pathlib import Path

import platformdirs


def state_folder() -> Path:
    """For what must outlive the process but is no document: recovery files and the log. Made if it is not there."""
    return Path(platformdirs.user_state_dir("cinetica", ensure_exists=True))


def recovery_folder() -> Path:
    folder = state_folder() / "recovery"
    folder.mkdir(exist_ok=True)
    return folder


def log_file() -> Path:
    return state_folder() / "cinetica.log"
