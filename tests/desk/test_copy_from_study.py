"""Copying tunes and drills from another study through the dialog, with its errors."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialogButtonBox, QFileDialog

from cinetica.desk.dialogs.copy_from_study import CopyFromStudy
from cinetica.desk.widgets import leaves
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import write_study
from cinetica.model import editing
from cinetica.model.targets import Target
from cinetica.model.templates import TEMPLATES

HARBOUR = shipped_study("harbour")


@pytest.fixture
def taking(window):
    window.session.load(TEMPLATES[0].make(), None)
    return CopyFromStudy(window.session, [], window)


def tick(dialog, *names):
    for _, child in leaves(dialog.list):
        if child.data(0, Qt.ItemDataRole.UserRole) in names:
            child.setCheckState(0, Qt.CheckState.Checked)


def choose(dialog, words):
    dialog.sources.setCurrentIndex(
        next(place for place in range(dialog.sources.count()) if dialog.sources.itemText(place).startswith(words))
    )


def test_the_ticked_items_are_copied_in_one_edit(window, taking):
    choose(taking, "The demo")
    take = taking.answers.button(QDialogButtonBox.StandardButton.Ok)
    assert not take.isEnabled()
    tick(taking, "Wren", "Rooftop hop")
    assert take.isEnabled()
    before = window.session.study
    taking.answers.accepted.emit()
    study = window.session.study
    assert study.tune("Wren") == HARBOUR.tune("Wren")
    assert study.drill("Rooftop hop") == HARBOUR.drill("Rooftop hop")
    assert [each.name for each in study.tunes] == ["Courier", "Wren"]
    window.session.undo()
    assert window.session.study == before


def test_a_file_that_cannot_be_read_says_why_and_another_can_be_chosen(window, taking, tmp_path, monkeypatch):
    broken, good = tmp_path / "broken.json", tmp_path / "good.json"
    broken.write_text("{")
    write_study(HARBOUR, good)
    for path in (broken, good):
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, path=path, **__: (str(path), ""))
        taking._choose_file()
        if path is broken:
            assert "broken.json" in taking.message.text()
            assert leaves(taking.list) == []
    assert taking.message.text() == ""
    assert len(leaves(taking.list)) == len(HARBOUR.tunes) + len(HARBOUR.drills)


def test_too_many_tunes_are_refused_and_the_dialog_stays_open(window, taking):
    for _ in range(5):
        window.session.alter("New tune", lambda study: editing.new_tune(study, "side"))
    before = window.session.study
    choose(taking, "The demo")
    tick(taking, "Wren")
    taking.take()
    assert "6 tunes" in taking.message.text()
    assert window.session.study is before


def test_copies_get_free_names_and_keep_snapshots_and_targets():
    ours = HARBOUR
    theirs = editing.with_snapshot(HARBOUR, "Wren")
    for tunes in (("Wren",), ("Bramble",), ("Wren", "Bramble"), ()):
        theirs = editing.with_target(
            theirs, "Rooftop hop", Target(measure="jump_height", low=float(len(tunes)), tunes=tunes)
        )
    taken = editing.with_taken(ours, theirs, ("Wren", "Wren before"), ("Rooftop hop",))
    assert [each.name for each in taken.tunes[-2:]] == ["Wren 2", "Wren before"]
    assert taken.tunes[-1].snapshot_of == "Wren 2"
    assert taken.drills[-1].name == "Rooftop hop 2"
    kept = {each.tunes for each in taken.drills[-1].targets}
    assert all(set(names) <= {"Wren 2"} for names in kept)
    alone = editing.with_taken(ours, theirs, ("Wren before",), ())
    assert alone.tunes[-1].snapshot_of == ""
