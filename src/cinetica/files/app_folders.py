"""Where the program keeps its own files, by the XDG Base Directory Specification."""

from __future__ import annotations

from pathlib import Path

import platformdirs


def state_folder() -> Path:
    """For what must outlive the process but is not a document: recovery files and the log. Created if missing."""
    return Path(platformdirs.user_state_dir("cinetica", ensure_exists=True))


def recovery_folder() -> Path:
    """The folder of recovery files, created if missing."""
    folder = state_folder() / "recovery"
    folder.mkdir(exist_ok=True)
    return folder


def log_file() -> Path:
    """The path of the log."""
    return state_folder() / "cinetica.log"
