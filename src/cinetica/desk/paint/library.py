"""How pyqtgraph is loaded: without what it has for other toolkits, and without widgets of its own that nothing here
shows.

At a start it is what takes longest. `pyqtgraph.Qt` evens out four ways to use Qt by copying all 700 classes of PySide,
each of which is made when it is touched; most are never used. Here it is PySide's own modules. The names are those that
pyqtgraph's modules import from it (pyqtgraph 0.14, `Qt/__init__.py`).
"""

from __future__ import annotations

import importlib
import importlib.util
import sys
from pathlib import Path
from types import ModuleType

import PySide6
import shiboken6
from PySide6 import QtCore, QtGui, QtOpenGLWidgets, QtSvg, QtTest, QtWidgets

# Widgets that pyqtgraph loads with itself; and the names that it asks of them.
LEFT_OUT: dict[str, tuple[str, ...]] = {
    "widgets.ColorMapWidget": (),
    "widgets.DataFilterWidget": (),
    "widgets.ScatterPlotWidget": (),
    "widgets.RemoteGraphicsView": ("RemoteGraphicsView",),
    "imageview": (),
}


def load() -> None:
    """Load pyqtgraph; where it is loaded already, it stays as it is."""
    spec = importlib.util.find_spec("pyqtgraph")
    if "pyqtgraph" in sys.modules or spec is None or spec.origin is None:
        return
    qt, compat = _standing_for("pyqtgraph.Qt"), _standing_for("pyqtgraph.Qt.compat")
    qt.__path__ = [str(Path(spec.origin).parent / "Qt")]
    for module in (QtCore, QtGui, QtWidgets, QtSvg, QtTest, QtOpenGLWidgets):
        name = module.__name__.rpartition(".")[2]
        setattr(qt, name, module)
        sys.modules[f"pyqtgraph.Qt.{name}"] = module
    vars(compat).update(
        wrapinstance=shiboken6.wrapInstance, voidptr=shiboken6.VoidPtr,
        unwrapinstance=lambda thing: shiboken6.getCppPointer(thing)[0],
    )  # fmt: skip
    vars(qt).update(
        QT_LIB="PySide6", QtVersion=QtCore.qVersion(), compat=compat, isQObjectAlive=shiboken6.isValid,
        VERSION_INFO=f"PySide6 {PySide6.__version__} Qt {QtCore.qVersion()}", mkQApp=_application,
        exec_=lambda: _application().exec(), __getattr__=_part_of_qt,
    )  # fmt: skip
    for name, asked in LEFT_OUT.items():
        vars(_standing_for(f"pyqtgraph.{name}")).update(dict.fromkeys(asked))
    pyqtgraph = importlib.import_module("pyqtgraph")
    pyqtgraph.Qt = qt  # type: ignore[attr-defined]
    # Whoever asks for what was left out gets it from now on.
    for name in LEFT_OUT:
        del sys.modules[f"pyqtgraph.{name}"]


def _standing_for(name: str) -> ModuleType:
    module = sys.modules[name] = ModuleType(name)
    return module


def _part_of_qt(name: str) -> ModuleType:
    """Modules of `pyqtgraph.Qt` that are its own are loaded when they are asked for."""
    if name not in ("internals", "OpenGLHelpers", "OpenGLConstants"):
        raise AttributeError(name)
    return importlib.import_module(f"pyqtgraph.Qt.{name}")


def _application(_name: str | None = None) -> QtWidgets.QApplication:
    """The one there is: pyqtgraph makes none of its own here."""
    app = QtWidgets.QApplication.instance()
    assert isinstance(app, QtWidgets.QApplication)
    return app
