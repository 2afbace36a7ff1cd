"""Which of Qt's system libraries are missing, and the command that installs them.

Standard library only: the set-up runs this file before anything is installed (`python3 libraries.py` prints the missing
Debian packages).
"""

from __future__ import annotations

import ctypes
import os
import sys

# System libraries that Qt's wheels load, by Debian package.
ALWAYS = {
    "libEGL.so.1": "libegl1",
    "libGL.so.1": "libgl1",
    "libxkbcommon.so.0": "libxkbcommon0",
    "libdbus-1.so.3": "libdbus-1-3",
    "libfontconfig.so.1": "libfontconfig1",
    "libgthread-2.0.so.0": "libglib2.0-0",
    "libX11.so.6": "libx11-6",
}
# Libraries needed for PDF reports.
FOR_PDF = {
    "libpango-1.0.so.0": "libpango-1.0-0",
    "libpangoft2-1.0.so.0": "libpangoft2-1.0-0",
    "libharfbuzz-subset.so.0": "libharfbuzz-subset0",
}
ON_X11 = {
    "libX11-xcb.so.1": "libx11-xcb1",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-sync.so.1": "libxcb-sync1",
    "libxcb-xfixes.so.0": "libxcb-xfixes0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
}


def has_display() -> bool:
    """Whether there is a screen to open a window on."""
    if os.environ.get("QT_QPA_PLATFORM") in ("offscreen", "minimal"):
        return False
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def missing_packages(*, display: bool, pdf: bool = False) -> list[str]:
    """Debian packages of the libraries that do not load.

    With `display` also those of a window on X11, with `pdf` those for PDFs.
    """
    needed = {**ALWAYS, **(ON_X11 if display else {}), **(FOR_PDF if pdf else {})}
    return [package for library, package in needed.items() if not _loads(library)]


def install_line(packages: list[str]) -> str:
    """The message with the command that installs these packages."""
    return (
        f"Qt needs system libraries that are not here; install them with: sudo apt-get install -y {' '.join(packages)}"
    )


def _loads(library: str) -> bool:
    try:
        ctypes.CDLL(library)
    except OSError:
        return False
    return True


if __name__ == "__main__":
    print(" ".join(missing_packages(display="--display" in sys.argv or has_display(), pdf=True)))
