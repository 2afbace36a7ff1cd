"""pyqtgraph as it is loaded here does what it does elsewhere."""

import subprocess
import sys

import pyqtgraph
import pytest
from PySide6 import QtCore, QtGui, QtWidgets

PICTURE = """
import sys
{first}
import pyqtgraph as pg
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication
app = QApplication([])
plot = pg.PlotWidget()
plot.resize(400, 300)
plot.addLegend()
plot.plot([1, 4, 2, 3], pen="r", symbol="o", name="one")
plot.addItem(pg.BarGraphItem(x=[0, 1], height=[1, 2], width=0.5))
plot.addItem(pg.ROI([0.5, 0.5], [1, 1]))
plot.show()
app.processEvents()
image = plot.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
sys.stdout.buffer.write(bytes(image.constBits()))
"""


def test_a_plot_looks_as_it_does_with_pyqtgraph_alone():
    def made(first):
        program = PICTURE.format(first=first)
        return subprocess.run([sys.executable, "-c", program], check=True, capture_output=True).stdout

    alone = made("")
    assert len(set(alone)) > 10
    assert made("import cinetica.desk") == alone


def test_its_qt_is_the_one_that_everything_else_here_uses():
    assert (pyqtgraph.Qt.QtCore, pyqtgraph.Qt.QtGui, pyqtgraph.Qt.QtWidgets) == (QtCore, QtGui, QtWidgets)
    assert pyqtgraph.Qt.internals.PrimitiveArray(QtCore.QPointF, 2) is not None
    with pytest.raises(AttributeError):
        pyqtgraph.Qt.nothing_of_this_name  # noqa: B018


def test_what_was_left_out_is_there_for_whoever_asks(qapp):
    from pyqtgraph.imageview import ImageView
    from pyqtgraph.widgets.ColorMapWidget import ColorMapWidget

    assert issubclass(ImageView, QtWidgets.QWidget)
    assert issubclass(ColorMapWidget, QtWidgets.QWidget)
    assert issubclass(pyqtgraph.TableWidget, QtWidgets.QTableWidget)
    with pytest.raises(AttributeError):
        pyqtgraph.NothingOfThisName  # noqa: B018


def test_modules_of_qt_that_no_start_needs_are_there_when_they_are_asked_for():
    program = (
        "import sys, cinetica.desk, pyqtgraph\n"
        "loaded = {name for name in sys.modules if name.startswith('PySide6.QtOpenGL') or name == 'PySide6.QtTest'}\n"
        "from PySide6 import QtOpenGLWidgets\n"
        "print(loaded, pyqtgraph.Qt.QtOpenGLWidgets.QOpenGLWidget is QtOpenGLWidgets.QOpenGLWidget,"
        " pyqtgraph.Qt.QtTest.QTest.__name__)\n"
    )
    done = subprocess.run([sys.executable, "-c", program], check=True, capture_output=True, text=True)
    assert done.stdout.split() == ["set()", "True", "QTest"]
