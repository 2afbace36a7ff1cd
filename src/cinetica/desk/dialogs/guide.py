"""The guide: jobs step by step, searched by words, and all keys. It stands beside the window."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QImage, QTextDocument
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QTextBrowser, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.actions.keys import help_text
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.widgets import plain_tip
from cinetica.files.guide import Job, guide_folder, jobs

KEYS = "All keys"
NONE = "The guide was not installed with the program; the keys are here."


class Pages(QTextBrowser):
    """Pictures are as wide as the page, and no wider than they are."""

    def loadResource(self, kind: int, name: QUrl | str) -> Any:
        folder, name = guide_folder(), QUrl(name)
        if kind != QTextDocument.ResourceType.ImageResource.value or folder is None:
            return super().loadResource(kind, name)
        image = QImage(str(folder / name.path()))
        wide = max(200, self.viewport().width() - look.px(24))
        if image.width() <= wide:
            return image
        return image.scaledToWidth(wide, Qt.TransformationMode.SmoothTransformation)


class Guide(Dialog):
    """It stays open while one works."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__("How to use Cinetica", parent)
        self.text_scale = look.text_scale()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a job…")
        self.search.setAccessibleName("Find a job")
        self.search.setClearButtonEnabled(True)
        self.titles = QListWidget()
        self.titles.setAccessibleName("Jobs")
        self.titles.setFixedWidth(look.width("A courier seen from above, as fast", 10))
        self.titles.setWordWrap(True)
        self.titles.setSpacing(2)
        self.text = Pages()
        self.text.setOpenLinks(False)
        self.text.setAccessibleName("The job")
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.titles, 1)
        row = QHBoxLayout(self)
        row.addLayout(left)
        row.addWidget(self.text, 1)
        self.search.textChanged.connect(self._list)
        self.titles.currentItemChanged.connect(lambda *_: self._show())
        self._list("")
        self.fit(132, 44)

    def _list(self, words: str) -> None:
        """The jobs in which these words stand, and the keys."""
        before = self.titles.currentItem().text() if self.titles.currentItem() else ""
        self.titles.blockSignals(True)
        self.titles.clear()
        found = [job for job in jobs() if job.has(words)]
        for title in [*(job.title for job in found), KEYS]:
            item = QListWidgetItem(title)
            item.setToolTip(plain_tip(title))
            self.titles.addItem(item)
        self.titles.blockSignals(False)
        titles = [self.titles.item(row).text() for row in range(self.titles.count())]
        self.titles.setCurrentRow(titles.index(before) if before in titles else 0)
        self._show()

    @property
    def job(self) -> Job | None:
        """The one that is shown; None for the keys."""
        item = self.titles.currentItem()
        return next((job for job in jobs() if item is not None and job.title == item.text()), None)

    def _show(self) -> None:
        job = self.job
        if job is not None:
            self.text.setMarkdown(f"## {job.title}\n\n{job.text}")
        else:
            none = "" if jobs() else f"<p>{NONE}</p>"
            self.text.setHtml(none + help_text())
        words = self.search.text().split()
        if words and job is not None:
            self.text.find(words[0])

    def to(self, words: str) -> None:
        """Show the job in whose title these words stand."""
        self.search.clear()
        for row in range(self.titles.count()):
            if words and words in self.titles.item(row).text():
                self.titles.setCurrentRow(row)
                return
