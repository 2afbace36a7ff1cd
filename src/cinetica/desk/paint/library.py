"""How pyqtgraph is loaded: without what it has for other toolkits, and without widgets of its own that nothing here
shows.

At a start it is what takes longest. `pyqtgraph.Qt` evens out four ways to use Qt by copying all 700 classes of PySide,
each of which is made when it is touched; most are never used. Here it is PySide's own modules, of which those that
nothing at a start asks for, such as OpenGL's, are loaded when somebody does. The names are those that pyqtgraph's
modules import from it (pyqtgraph 0.14, `Qt/__init__.py`).
"""

from __future__ import annotations

import importlib
import importlib.util
import sys
from pathlib import Path
from types import ModuleType

import PySide6
import shiboken6
from PySide6 import QtCore, QtGui, QtWidgets

# Of pyqtgraph's two folders what `plot.py` is made of, and what that needs. The others are loaded when somebody asks.
KEPT = {
    "graphicsItems": (
        "AxisItem", "GraphicsItem", "GraphicsObject", "GraphicsWidget", "ItemGroup", "ScatterPlotItem", "ViewBox",
    ),
    "widgets": ("GraphicsView",),
}  # fmt: skip
# Modules of PySide that are loaded when something of them is asked for.
WHEN_ASKED = ("QtSvg", "QtTest", "QtOpenGL", "QtOpenGLWidgets")


def load() -> None:
    """Load pyqtgraph; where it is loaded already, it stays as it is."""
    spec = importlib.util.find_spec("pyqtgraph")
    if "pyqtgraph" in sys.modules or spec is None or spec.origin is None:
        return
    qt, compat = _standing_for("pyqtgraph.Qt"), _standing_for("pyqtgraph.Qt.compat")
    home = Path(spec.origin).parent
    qt.__path__ = [str(home / "Qt")]
    waiting = {name: _when_asked(f"PySide6.{name}") for name in WHEN_ASKED}
    for name, module in ({"QtCore": QtCore, "QtGui": QtGui, "QtWidgets": QtWidgets} | waiting).items():
        setattr(qt, name, module)
        sys.modules[f"pyqtgraph.Qt.{name}"] = module
    # Some of pyqtgraph's modules go to PySide for it.
    for_now = {f"PySide6.{name}" for name in WHEN_ASKED} - sys.modules.keys()
    sys.modules.update({name: waiting[name.removeprefix("PySide6.")] for name in for_now})
    vars(compat).update(
        wrapinstance=shiboken6.wrapInstance, voidptr=shiboken6.VoidPtr,
        unwrapinstance=lambda thing: shiboken6.getCppPointer(thing)[0],
    )  # fmt: skip
    vars(qt).update(
        QT_LIB="PySide6", QtVersion=QtCore.qVersion(), compat=compat, isQObjectAlive=shiboken6.isValid,
        VERSION_INFO=f"PySide6 {PySide6.__version__} Qt {QtCore.qVersion()}", mkQApp=_application,
        exec_=lambda: _application().exec(), __getattr__=_part_of_qt,
    )  # fmt: skip
    left_out = {name: folder for folder in KEPT for name in _left_out(home / folder)}
    for name, folder in left_out.items():
        # What is asked for by its name is nothing, for now.
        vars(_standing_for(f"pyqtgraph.{folder}.{name}"))["__getattr__"] = _nothing
    _standing_for("pyqtgraph.imageview")
    pyqtgraph = importlib.import_module("pyqtgraph")
    pyqtgraph.Qt = qt  # type: ignore[attr-defined]
    for name in (*(f"pyqtgraph.{folder}.{name}" for name, folder in left_out.items()), "pyqtgraph.imageview", *for_now):
        del sys.modules[name]
    for name in left_out.keys() & vars(pyqtgraph).keys():
        delattr(pyqtgraph, name)

    def asked_for(name: str) -> object:
        """What has the name of a module that was left out is in that module."""
        if name not in left_out:
            raise AttributeError(name)
        return getattr(importlib.import_module(f"pyqtgraph.{left_out[name]}.{name}"), name)

    vars(pyqtgraph)["__getattr__"] = asked_for


def _left_out(folder: Path) -> list[str]:
    """The modules in one of the folders of KEPT that are not loaded."""
    names = (path.stem for path in folder.iterdir() if path.suffix == ".py" or (path / "__init__.py").exists())
    return [name for name in names if name not in (*KEPT[folder.name], "__init__")]


def _nothing(name: str) -> None:
    if name.startswith("__"):
        raise AttributeError(name)


def _standing_for(name: str) -> ModuleType:
    module = sys.modules[name] = ModuleType(name)
    return module


def _when_asked(name: str) -> ModuleType:
    """A module that is loaded when something of it is asked for."""
    module = ModuleType(name)
    vars(module)["__getattr__"] = lambda asked: getattr(importlib.import_module(name), asked)
    return module


def _part_of_qt(name: str) -> ModuleType:
    """Modules of `pyqtgraph.Qt` that are its own are loaded when they are asked for."""
    if name == "internals":
        return importlib.import_module(f"pyqtgraph.Qt.{name}")
    if name in ("OpenGLHelpers", "OpenGLConstants"):
        return _when_asked(f"pyqtgraph.Qt.{name}")
    raise AttributeError(name)


def _application(_name: str | None = None) -> QtWidgets.QApplication:
    """The one there is: pyqtgraph makes none of its own here."""
    app = QtWidgets.QApplication.instance()
    assert isinstance(app, QtWidgets.QApplication)
    return app
