"""What a window keeps when its widgets are rebuilt: the keyboard focus, and what the mouse is over."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QApplication, QWidget

Path = tuple[tuple[type, int], ...]


def path_to(widget: QWidget | None, root: QWidget) -> Path | None:
    """The path from `root` to a widget, by class and position among its siblings; None if it is not inside."""
    steps: list[tuple[type, int]] = []
    while widget is not None and widget is not root:
        parent = widget.parentWidget()
        if parent is None:
            return None
        steps.append((type(widget), _alike(parent, type(widget)).index(widget)))
        widget = parent
    return None if widget is None else tuple(reversed(steps))


def follow(path: Path, root: QWidget) -> QWidget | None:
    """The widget at the end of a path under another root; None if there is none."""
    for kind, place in path:
        alike = _alike(root, kind)
        if place >= len(alike):
            return None
        root = alike[place]
    return root


def _alike(parent: QWidget, kind: type) -> list[QWidget]:
    return [each for each in parent.children() if isinstance(each, QWidget) and type(each) is kind]


def refresh_hover(root: QWidget) -> None:
    """Tell every widget whether the mouse is over it.

    Qt does not tell a widget that was laid out under a resting mouse when the mouse leaves it.
    """
    # What is shown for the first time lies over everything until it is laid out.
    QApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest.value)
    at = QCursor.pos()
    under = QApplication.widgetAt(at)
    over: set[QWidget] = set()
    while under is not None and under is not root:
        over.add(under)
        under = under.parentWidget()
    # A mouse over another window is over nothing here.
    over = over if under is root else set()
    for each in root.findChildren(QWidget):
        hovered = each in over
        if each.testAttribute(Qt.WidgetAttribute.WA_UnderMouse) != hovered:
            each.setAttribute(Qt.WidgetAttribute.WA_UnderMouse, hovered)
            each.update()
