"""Window geometry: always fully on the screen with its frame, whatever was stored."""

from __future__ import annotations

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QGuiApplication, QScreen
from PySide6.QtWidgets import QWidget

# The size of a frame and its title, in pixels, until the window manager reports it.
FRAME = QSize(4, 40)


def restore_geometry(window: QWidget, wanted: QSize) -> None:
    """Centre a window of this size on the screen; if there is no room, maximise it."""
    room = _screen_of(window).availableGeometry()
    if wanted.width() + FRAME.width() <= room.width() and wanted.height() + FRAME.height() <= room.height():
        window.resize(wanted)
        return
    # The size to which it returns from full screen must fit as well.
    window.resize(
        wanted.boundedTo(room.size() - FRAME).boundedTo(QSize(room.width() * 15 // 16, room.height() * 7 // 8))
    )
    window.setWindowState(Qt.WindowState.WindowMaximized)


def keep_on_screen(window: QWidget) -> None:
    """Move and shrink a window that extends beyond its screen, such as one stored on another screen."""
    if window.isMaximized() or window.isFullScreen():
        return
    frame = window.frameGeometry()
    screen = QGuiApplication.screenAt(frame.center()) or _screen_of(window)
    room = screen.availableGeometry()
    if not screen.geometry().isValid() or room.contains(frame):
        return
    around = frame.size() - window.size()
    window.resize(window.size().boundedTo(room.size() - around))
    at = _inside(QRect(frame.topLeft(), window.size() + around), room).topLeft()
    window.move(at)


def _inside(frame: QRect, room: QRect) -> QRect:
    x = max(room.left(), min(frame.left(), room.right() - frame.width() + 1))
    y = max(room.top(), min(frame.top(), room.bottom() - frame.height() + 1))
    return QRect(x, y, frame.width(), frame.height())


def _screen_of(window: QWidget) -> QScreen:
    return window.screen() or QGuiApplication.primaryScreen()
