"""The guide in the window: complete, with its pictures, searchable, and opened at the job of the page."""

import re
from pathlib import Path

import pytest
from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QTextDocument
from PySide6.QtWidgets import QApplication

from cinetica.desk.dialogs import guide as guides
from cinetica.desk.dialogs.guide import KEYS, Guide
from cinetica.desk.pages import PAGES
from cinetica.files import guide as files
from cinetica.files.guide import guide_folder, jobs
from tests.desk.conftest import key

ROOT = Path(__file__).parents[2]


@pytest.fixture
def guide(window):
    window.actions_by_name["help"].trigger()
    return window.side_windows.guide


def titles(guide):
    return [guide.titles.item(row).text() for row in range(guide.titles.count())]


def test_every_job_in_the_document_is_in_the_guide_with_its_pictures(guide):
    headings = re.findall(r"^## \d+\. (.+)$", (ROOT / "docs/guide.md").read_text(), re.MULTILINE)
    assert titles(guide) == [*headings, KEYS]
    for job in jobs():
        for name in re.findall(r"!\[.*?\]\((.+?)\)", job.text):
            assert (guide_folder() / name).is_file(), name
            shown = guide.text.loadResource(QTextDocument.ResourceType.ImageResource.value, QUrl(name))
            assert 0 < shown.width() <= guide.text.viewport().width()


@pytest.mark.parametrize("entry", PAGES, ids=lambda entry: entry.words)
def test_the_guide_opens_at_the_job_of_the_page(window, entry):
    window.show_page(entry.action)
    key(window, Qt.Key.Key_F1)
    words = window.desk.shown.guide
    assert words, f"the page {entry.words} names no job: its GUIDE should be words of a title in docs/guide.md"
    title = window.side_windows.guide.job.title
    assert words in title, f"no job in docs/guide.md has “{words}” in its title: write one for the page {entry.words}"
    assert not window.side_windows.guide.isModal()


def test_each_view_of_survey_has_a_job(window):
    window.show_page("survey")
    found = set()
    for view in window.survey.views:
        window.survey.show_view(view.WORDS)
        window.show_help()
        found.add(window.side_windows.guide.job.title)
    assert len(found) == len(window.survey.views)


def test_jobs_are_found_by_words_and_the_keys_are_always_there(guide, qtbot):
    guide.search.setText("coyote scatters")
    assert titles(guide) == [job.title for job in jobs() if job.has("coyote scatters")] + [KEYS]
    assert len(titles(guide)) == 2
    guide.search.setText("zzz")
    assert titles(guide) == [KEYS]
    qtbot.waitUntil(lambda: "F8" in guide.text.toPlainText())
    guide.search.clear()
    assert len(titles(guide)) == len(jobs()) + 1


def test_the_page_follows_after_a_pause_and_at_once_on_enter(guide, qtbot, monkeypatch):
    shown = []
    monkeypatch.setattr(guide.text, "setMarkdown", shown.append)
    qtbot.keyClicks(guide.search, "jump buffer")
    assert shown == []
    qtbot.waitUntil(lambda: len(shown) == 1)
    assert guide.job.title in shown[0]
    # The same page is not built again.
    qtbot.keyClick(guide.search, Qt.Key.Key_Return)
    assert len(shown) == 1
    guide.search.clear()
    guide.search.setText("coyote scatters")
    qtbot.keyClick(guide.search, Qt.Key.Key_Return)
    assert len(shown) == 2


def test_refusals_and_empty_pages_link_to_the_guide(window):
    window.session.refused.emit("That is not possible.")
    assert window.sheet.foot.text() == "That is not possible. (Guide: F1)"
    window.show_page("survey")
    for _, tune in window.session.tunes:
        window.session.toggle(tune)
    assert "The guide (F1)" in window.survey.view.why_not


def test_a_missing_guide_is_reported_and_the_keys_are_still_shown(window, monkeypatch):
    monkeypatch.setattr(files, "PLACES", ())
    monkeypatch.setattr(guides, "jobs", tuple)
    bare = Guide(window)
    assert titles(bare) == [KEYS]
    assert "was not installed" in bare.text.toPlainText()
    QApplication.processEvents()
