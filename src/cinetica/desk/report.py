"""The sheet to show, drawn by the page itself: HTML with curves as SVG, or PDF."""

from __future__ import annotations

import base64
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QSizeF, Qt, QUrl
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPdfWriter, QTextDocument
from PySide6.QtWidgets import QApplication

from cinetica.desk import look
from cinetica.desk.clock_panel import clock_words
from cinetica.desk.compare.page import ComparePage
from cinetica.desk.pictures import image_of, svg_of
from cinetica.desk.session import Session
from cinetica.files.report import report_html
from cinetica.files.writing import write_atomically
from cinetica.model.study import Drill, Study

WIDTH, STAGE, LOWER = 1000, 220, 430
# What is said while it is made: how many of how many drills are drawn. False calls it off.
Progress = Callable[[int, int], bool]


def _go_on(done: int, of: int) -> bool:
    return True


class _Drawer:
    """A page of its own, never on the screen, that draws one drill after the other by day."""

    def __init__(self, study: Study) -> None:
        self.session = Session(study)
        self.page = ComparePage(self.session, look.DAY)
        self.page.setAttribute(Qt.WidgetAttribute.WA_DontShowOnScreen)
        self.page.setPalette(look.qt_palette(look.DAY))
        self.page.setStyleSheet(look.style_sheet(look.DAY))
        # What is there to be clicked is not for paper.
        self.page.bar.hide()
        self.page.stage.every_box.hide()
        self.page.stage.about.hide()
        self.page.resize(WIDTH + 360, STAGE + LOWER + 120)
        self.page.show()
        self.page.set_look(look.DAY)
        self.session.start()
        self.session.drill_changed.emit()

    def show(self, drill: Drill) -> None:
        self.session.choose_drill(drill.name)
        self.page.stage.resize(WIDTH, STAGE)
        self.page.fit()
        QApplication.processEvents()

    def close(self) -> None:
        self.page.close()
        self.page.deleteLater()


def _drawn(study: Study, drills: list[Drill], progress: Progress, draw: Callable[[_Drawer, Drill], list[str]]) -> dict[str, list[str]] | None:
    drawer = _Drawer(study)
    pictures: dict[str, list[str]] = {}
    try:
        for done, drill in enumerate(drills):
            if not progress(done, len(drills)):
                return None
            if study.tunes_for(drill):
                drawer.show(drill)
                pictures[drill.name] = draw(drawer, drill)
    finally:
        drawer.close()
    return pictures


def write_report(study: Study, drills: list[Drill], path: Path, progress: Progress = _go_on) -> bool:
    """Write the sheet as PDF or, by any other suffix, HTML; False if it was called off. OSError if it cannot be written."""
    return _write_pdf(study, drills, path, progress) if path.suffix.lower() == ".pdf" else _write_html(study, drills, path, progress)


def _write_html(study: Study, drills: list[Drill], path: Path, progress: Progress) -> bool:
    def draw(drawer: _Drawer, drill: Drill) -> list[str]:
        parts = (drawer.page.stage, drawer.page.below_stage)
        return [f"data:image/svg+xml;base64,{base64.b64encode(svg_of(part, drill.name)).decode()}" for part in parts]

    pictures = _drawn(study, drills, progress, draw)
    if pictures is None:
        return False
    write_atomically(path, report_html(study, drills, pictures, clock_words(study.clock)).encode())
    return True


def _write_pdf(study: Study, drills: list[Drill], path: Path, progress: Progress) -> bool:
    images: dict[str, QImage] = {}

    def draw(drawer: _Drawer, drill: Drill) -> list[str]:
        names = []
        for number, part in enumerate((drawer.page.stage, drawer.page.below_stage)):
            name = f"drill:{len(images)}-{number}"
            images[name] = image_of(part)
            names.append(name)
        return names

    pictures = _drawn(study, drills, progress, draw)
    if pictures is None:
        return False
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(study.name)
    writer.setResolution(144)
    margins = QMarginsF(12, 12, 12, 12)
    writer.setPageLayout(QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, margins, QPageLayout.Unit.Millimeter))
    document = QTextDocument()
    document.setDocumentMargin(0)
    document.setDefaultFont(look.font(10))
    paper = writer.pageLayout().paintRectPixels(writer.resolution()).size()
    document.documentLayout().setPaintDevice(writer)
    document.setPageSize(QSizeF(paper))
    for name, image in images.items():
        image.setDevicePixelRatio(1)
        fitted = image.scaledToWidth(min(image.width(), paper.width()), Qt.TransformationMode.SmoothTransformation)
        document.addResource(QTextDocument.ResourceType.ImageResource, QUrl(name), fitted)
    # The text counts pixels of 1/96 inch, whatever the writer's own are.
    width = paper.width() * 96 // writer.resolution()
    page = report_html(study, drills, pictures, clock_words(study.clock)).replace(' width="1000"', f' width="{width}"')
    page = page.replace('class="drill"', 'style="page-break-before: always"')
    for name, image in images.items():
        page = page.replace(f'src="{name}"', f'src="{name}" height="{width * image.height() // image.width()}"')
    # Pages are of one size: what makes the page on a screen narrow and warm is not for paper.
    document.setHtml(page.replace("background: #FBF8F1; max-width: 1060px; margin: 24px auto; padding: 0 16px;", "").replace("font-size: 14px;", ""))
    document.print_(writer)
    buffer.close()
    write_atomically(path, bytes(content.data()))
    return True
