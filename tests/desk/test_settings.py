"""Damaged settings fall back to defaults and never prevent a window."""

import random

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from cinetica.desk.application import start
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Settings
from cinetica.desk.window import Window
from cinetica.files.shipped import shipped_study
from tests.repetitions import TIMES

WORDS = (
    b"true", b"1e999", b"[[[[", b"{}", b"@ByteArray(", b"@Variant(\\0\\0)", b"@Invalid()", b"null", b"-1", b'"x"',
    b"\xff", b"%%", b"[General]",
)  # fmt: skip


def settings_file(path) -> bytes:
    settings = Settings(path)
    window = Window(Session(shipped_study("harbour")), settings=settings)
    window.show()
    start(window)
    window.close()
    window.deleteLater()
    return path.read_bytes()


@pytest.mark.thorough
def test_a_window_opens_with_whatever_the_settings_say(qapp, tmp_path):
    whole = settings_file(tmp_path / "whole.ini")
    assert b"text_scale" in whole
    chance = random.Random(TIMES)
    for number in range(8 * TIMES):
        lines = whole.split(b"\n")
        for _ in range(chance.choice((1, 3, 8))):
            at = chance.randrange(len(lines))
            name, equals, value = lines[at].partition(b"=")
            noise = bytes(chance.randrange(256) for _ in range(20))
            lines[at] = name + equals + chance.choice((*WORDS, value[: len(value) // 2], noise))
        path = tmp_path / f"{number}.ini"
        path.write_bytes(b"\n".join(lines))
        window = Window(Session(shipped_study("harbour")), settings=Settings(path))
        window.show()
        start(window)
        QApplication.processEvents()
        assert window.page.strips.strips
        window.close()
        window.deleteLater()
        # A thousand of them at once would be another test.
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
