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

# What pyqtgraph loads with itself, and no plot needs.
ITEMS = (
    "Arrow", "Boxplot", "ColorBar", "DateAxis", "ErrorBar", "FillBetween", "Graph", "Grid", "HistogramLUT", "Image",
    "Isocurve", "LinearRegion", "PColorMesh", "Target", "UIGraphics",
)  # fmt: skip
OTHER_ITEMS = ("CurvePoint", "GradientLegend", "ROI", "ScaleBar", "VTickGroup")
WIDGETS = (
    "BusyCursor", "CheckTable", "ColorMapWidget", "ComboBox", "DataFilterWidget", "DataTreeWidget", "DiffTreeWidget",
    "FeedbackButton", "GroupBox", "HistogramLUTWidget", "JoystickButton", "LayoutWidget", "PathButton",
    "ProgressDialog", "RawImageWidget", "RemoteGraphicsView", "ScatterPlotWidget", "TableWidget", "ValueLabel",
    "VerticalLabel",
)  # fmt: skip
# Of these the class is asked for by its name, of the others all that there is.
ASKED_BY_NAME = ("GroupBox", "RemoteGraphicsView")
LEFT_OUT = (
    *(f"graphicsItems.{name}Item" for name in ITEMS),
    *(f"graphicsItems.{name}" for name in OTHER_ITEMS),
    *(f"widgets.{name}" for name in WIDGETS),
    "imageview",
)
# Modules of PySide that are loaded when something of them is asked for.
WHEN_ASKED = ("QtSvg", "QtTest", "QtOpenGL", "QtOpenGLWidgets")


def load() -> None:
    """Load pyqtgraph; where it is loaded already, it stays as it is."""
    spec = importlib.util.find_spec("pyqtgraph")
    if "pyqtgraph" in sys.modules or spec is None or spec.origin is None:
        return
    qt, compat = _standing_for("pyqtgraph.Qt"), _standing_for("pyqtgraph.Qt.compat")
    qt.__path__ = [str(Path(spec.origin).parent / "Qt")]
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
    for name in LEFT_OUT:
        _standing_for(f"pyqtgraph.{name}")
    for name in ASKED_BY_NAME:
        setattr(sys.modules[f"pyqtgraph.widgets.{name}"], name, None)
    pyqtgraph = importlib.import_module("pyqtgraph")
    pyqtgraph.Qt = qt  # type: ignore[attr-defined]
    # Whoever asks for what was left out gets it from now on.
    for name in ASKED_BY_NAME:
        delattr(pyqtgraph, name)
    vars(pyqtgraph)["__getattr__"] = _left_out
    for name in (*(f"pyqtgraph.{name}" for name in LEFT_OUT), *for_now):
        del sys.modules[name]


def _left_out(asked: str) -> object:
    """What pyqtgraph has under this name in a module of the same name that was left out."""
    for name in LEFT_OUT:
        if name.rpartition(".")[2] == asked:
            return getattr(importlib.import_module(f"pyqtgraph.{name}"), asked)
    raise AttributeError(asked)


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
