"""The guide: jobs step by step, searched by words, and all keys. It stays open beside the window."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from PySide6.QtCore import QSignalBlocker, Qt, QTimer, QUrl
from PySide6.QtGui import QImage, QTextCursor, QTextDocument
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QTextBrowser, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.keys import help_text
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.widgets import plain_tip
from cinetica.files.guide import Job, guide_folder, jobs

# ms
PAGE_FOLLOWS = 120
_NOTHING = object()
KEYS = "All keys"
NONE = "The guide was not installed; the keys are here."


@lru_cache(32)
def _picture(path: str, width: int) -> QImage:
    """A picture, scaled down if it is wider than `width`, in px."""
    image = QImage(path)
    if image.width() <= width:
        return image
    return image.scaledToWidth(width, Qt.TransformationMode.SmoothTransformation)


class Pages(QTextBrowser):
    """Text whose pictures are no wider than the page."""

    @override
    def loadResource(self, kind: int, name: QUrl | str) -> Any:
        folder, name = guide_folder(), QUrl(name)
        if kind != QTextDocument.ResourceType.ImageResource.value or folder is None:
            return super().loadResource(kind, name)
        return _picture(str(folder / name.path()), max(200, self.viewport().width() - look.px(24)))


class Guide(Dialog):
    """A window that stays open."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__("How to use Cinetica", parent)
        self.text_scale = look.text_scale()
        # The job on the page, None for the keys.
        self._shown: Job | object | None = _NOTHING
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a job…")
        self.search.setAccessibleName("Find a job")
        self.search.setClearButtonEnabled(True)
        self.titles = QListWidget()
        self.titles.setAccessibleName("Jobs")
        self.titles.setFixedWidth(look.width("A courier seen from above, as fast", 10))
        self.titles.setWordWrap(True)
        # Qt would elide a title that is a pixel too long for its line, even if there is a second line.
        self.titles.setTextElideMode(Qt.TextElideMode.ElideNone)
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
        # The page follows when typing pauses: a picture takes longer than a letter.
        self._later = QTimer(self, singleShot=True, interval=PAGE_FOLLOWS)
        self._later.timeout.connect(self._show)
        self.search.textChanged.connect(self._list)
        self.search.returnPressed.connect(self._show)
        self.titles.currentItemChanged.connect(lambda *_: self._show())
        self._list("")
        self._show()
        self.fit(132, 44)

    def _list(self, words: str) -> None:
        """List the jobs that contain these words, and the keys."""
        before = self.titles.currentItem().text() if self.titles.currentItem() else ""
        titles = [*(job.title for job in jobs() if job.has(words)), KEYS]
        with QSignalBlocker(self.titles):
            self.titles.clear()
            for title in titles:
                item = QListWidgetItem(title)
                item.setToolTip(plain_tip(title))
                self.titles.addItem(item)
            self.titles.setCurrentRow(titles.index(before) if before in titles else 0)
        self._later.start()

    @property
    def job(self) -> Job | None:
        """The job shown; None for the keys."""
        item = self.titles.currentItem()
        return next((job for job in jobs() if item is not None and job.title == item.text()), None)

    def _show(self) -> None:
        self._later.stop()
        job = self.job
        if job == self._shown:
            # Only the search text has changed: the page stays.
            self._mark_words()
            return
        self._shown = job
        if job is not None:
            self.text.setMarkdown(f"## {job.title}\n\n{job.text}")
        else:
            none = "" if jobs() else f"<p>{NONE}</p>"
            self.text.setHtml(none + help_text())
        self._mark_words()

    def _mark_words(self) -> None:
        """Select the first occurrence of the first search word."""
        cursor = self.text.textCursor()
        cursor.movePosition(QTextCursor.MoveOperation.Start)
        self.text.setTextCursor(cursor)
        words = self.search.text().split()
        if words and self._shown is not None:
            self.text.find(words[0])

    def to(self, words: str) -> None:
        """Show the job whose title contains these words."""
        self.search.clear()
        for row in range(self.titles.count()):
            if words and words in self.titles.item(row).text():
                self.titles.setCurrentRow(row)
                return
