"""Export and import: pictures, tables, the report, numbers, proofs and logs."""

import csv
import threading
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QProgressDialog

from cinetica.desk.dialogs.hand_over import HandOver
from cinetica.desk.dialogs.import_log import ImportLog
from cinetica.desk.dialogs.report_contents import ReportContents
from cinetica.desk.export.exchange import Exchange
from cinetica.desk.sheet.model import FIRST_TUNE
from cinetica.files.game_numbers import read_numbers
from cinetica.files.handover import Which
from cinetica.files.proof import expected_text
from cinetica.files.report import EVERYTHING, Contents
from cinetica.files.shipped import shipped_study
from cinetica.model import editing
from cinetica.model.conventions import Conventions, Per
from cinetica.model.tune import parameter_by_id
from cinetica.model.value_text import reading_text
from cinetica.motion.simulate import simulate
from tests.traces import trace_rows

GAME = Conventions(pixels_per_unit=32, y_down=True, per=Per.FRAME)
DEMO = shipped_study("harbour")


@pytest.fixture
def to(monkeypatch, tmp_path):
    """The path that the window gets for its next file."""

    def answer(name):
        for question in ("ask_where", "ask_folder", "ask_file"):
            monkeypatch.setattr(Exchange, question, lambda *_: tmp_path / name)
        return tmp_path / name

    return answer


def do(window, action) -> None:
    window.actions_by_name[action].trigger()


# Pictures and tables


@pytest.mark.parametrize("action", ["picture_page", "picture_stage", "picture_strips"])
def test_every_part_exports_as_png_and_svg(window, to, messages, action):
    window.session.choose_drill("Rooftop hop")
    png = to("a.png")
    do(window, action)
    image = QImage(str(png))
    assert image.width() >= 2 * 500
    colors = {image.pixel(x, image.height() // 2) for x in range(0, image.width(), 3)}
    assert len(colors) > 3
    svg = to("a.svg")
    do(window, action)
    root = ET.parse(svg).getroot()
    lines = [node for node in root.iter() if node.tag.endswith(("path", "polyline", "rect"))]
    assert len(lines) > 50
    assert messages == [f"Saved in {png}.", f"Saved in {svg}."]


def test_a_single_strip_is_exported(window, to, monkeypatch):
    path = to("strip.svg")
    monkeypatch.setattr(Exchange, "ask_one", lambda *_: "Height")
    do(window, "picture_strip")
    text = path.read_text()
    assert "Height" in text
    assert "Velocity x" not in text


def test_traces_and_measures_are_exported_as_tables(window, to, tmp_path):
    window.session.choose_drill("Rooftop hop")
    to("")
    do(window, "save_traces")
    rows = trace_rows((tmp_path / "rooftop-hop-wren.csv").read_text())
    assert rows["y"].tolist() == window.session.shown[0].trace["y"].tolist()
    path = to("measures.csv")
    do(window, "save_measures")
    lines = list(csv.DictReader(path.open()))
    mine = next(
        line
        for line in lines
        if (line["drill"], line["tune"], line["measure"]) == ("Rooftop hop", "Wren", "jump_height")
    )
    assert float(mine["value"]) == window.session.shown[0].readings["jump_height"].value
    assert {line["drill"] for line in lines} == {drill.name for drill in DEMO.drills}


def test_an_unwritable_place_is_reported(window, to, messages):
    to("nowhere/a.png")
    do(window, "picture_stage")
    to("nowhere")
    do(window, "save_traces")
    assert len(messages) == 2
    assert all("Choose another place" in words for words in messages), messages


# The report


# Numbers


@pytest.fixture
def handing(window, qtbot):
    dialog = HandOver(window.session, window.session.study.tune("Wren"), window)
    qtbot.addWidget(dialog)
    dialog.show()
    return dialog


def test_conventions_are_chosen_once_and_belong_to_the_study(window, handing):
    handing.conventions.pixels.setValue(32)
    handing.conventions.y_down.setChecked(True)
    handing.conventions.per.setCurrentIndex(handing.conventions.per.findData(Per.FRAME))
    assert window.session.study.conventions == GAME
    assert "top_speed = 4.0  # px/frame" in handing.text.toPlainText()
    assert window.session.undo_stack.count() == 1
    window.session.undo_stack.undo()
    assert handing.conventions.pixels.value() == 1
    assert "top_speed = 7.5  # u/s" in handing.text.toPlainText()


def test_a_frame_rate_that_differs_from_the_tick_rate_is_pointed_out(window, handing):
    side = handing.conventions
    side.rate.setValue(50)
    assert handing.outcome.text() == "", "numbers count per second"
    side.per.setCurrentIndex(side.per.findData("frame"))
    assert "The game has 50 frames per second, this study 60 ticks." in handing.outcome.text()
    side.rate.setValue(60)
    assert handing.outcome.text() == ""


def test_a_game_name_is_kept_and_a_bad_one_refused(window, handing):
    from cinetica.model.tune import PARAMETERS

    row = next(place for place, parameter in enumerate(PARAMETERS) if parameter.id == "drive.top_speed")
    handing.conventions.names.item(row, 1).setText("MaxRun")
    assert window.session.study.conventions.names == {"drive.top_speed": "MaxRun"}
    assert "MaxRun = 7.5" in handing.text.toPlainText()
    handing.conventions.names.item(row, 1).setText("max run")
    assert "begins with a letter" in handing.outcome.text()
    assert handing.conventions.names.item(row, 1).text() == "MaxRun"
    handing.conventions.names.item(row, 1).setText("friction")
    assert "one name for two numbers" in handing.outcome.text()


def test_every_format_is_copied_as_shown(handing):
    for place in range(handing.formats.count()):
        handing.formats.setCurrentIndex(place)
        handing.copy()
        text = QGuiApplication.clipboard().text()
        assert text == handing.text.toPlainText()
        assert read_numbers(text, Conventions()).values["drive.top_speed"] == 7.5


def test_only_changes_since_a_milestone_are_handed_over_on_request(window, handing):
    handing.which.setCurrentIndex(handing.which.findData(Which.CHANGED))
    assert "no milestone yet" in handing.outcome.text()
    assert "top_speed" in handing.text.toPlainText()
    session = window.session
    session.edit("Milestone", editing.with_milestone(session.study, "first", "2026-11-01"))
    session.set_value(session.study.tune("Wren"), parameter_by_id("gravity.gravity"), 30.0)
    lines = [line for line in handing.text.toPlainText().splitlines() if line and not line.startswith("#")]
    assert [line.split()[0] for line in lines] == ["gravity"]
    handing.which.setCurrentIndex(handing.which.findData(Which.NAMED))
    assert "gravity" not in handing.text.toPlainText()


GAME_CODE = """#define JUMP_FORCE -12.0f /* px/frame */
static const float max_run = 210.0 / 60; // px/frame
static const int gravity = 30 / 60;
const double x = sqrt(2.0);
int lives = 3;
"""


def test_numbers_with_unknown_names_are_imported_if_ticked(window, handing):
    handing.pasted.setPlainText(GAME_CODE)
    found = handing.found
    assert found.values == {"gravity.gravity": 0.5}
    assert "1 number taken" in handing.message.text()
    assert "Proposed by name: 2." in handing.message.text()
    assert "30 / 60 divides whole numbers" in handing.message.text()
    # The unreadable line is listed with its reason.
    last = found.rowCount() - 1
    assert found.item(last, 0).text() == "line 4"
    assert "“sqrt” is not a constant" in found.item(last, 2).text()
    found.tick("max_run")
    assert found.values["drive.top_speed"] == pytest.approx(210)
    assert found.item(1, 3).text() == "210 u/s"
    # Choose another parameter, then none.
    chooser = found.chooser("lives")
    chooser.setCurrentIndex(chooser.findData("jump.air_jumps"))
    chooser.activated.emit(chooser.currentIndex())
    assert found.values["jump.air_jumps"] == 3
    # Choices and ticks survive further typing.
    handing.pasted.setPlainText(GAME_CODE + "\nfloat friction = 9;\n")
    assert found.values["jump.air_jumps"] == 3
    assert found.values["drive.friction"] == 9
    assert found.values["drive.top_speed"] == pytest.approx(210)
    chooser = found.chooser("lives")
    chooser.setCurrentIndex(0)
    chooser.activated.emit(0)
    assert "jump.air_jumps" not in found.values


def test_conventions_inferred_from_the_numbers_are_proposed_and_used(window, handing):
    handing.show_page("import")
    handing.pasted.setPlainText(GAME_CODE)
    assert "y down" in handing.message.text()
    assert handing.likely_button.isVisibleTo(handing)
    handing.found.tick("max_run")
    handing.use_likely()
    conventions = window.session.study.conventions
    assert conventions.y_down
    assert conventions.pixels_per_unit > 1
    assert not handing.likely_button.isVisibleTo(handing)
    # Ticks survive the new conventions.
    assert handing.found.values["drive.top_speed"] == pytest.approx(210 / conventions.pixels_per_unit)
    assert handing.found.entries[0].value > 0
    handing.found.tick("JUMP_FORCE")
    handing.into_tune()
    assert window.session.study.tune("Wren").jump.jump_speed == pytest.approx(720 / conventions.pixels_per_unit)


def test_numbers_are_imported_into_a_new_or_an_existing_tune(window, handing):
    handing.conventions.pixels.setValue(32)
    handing.show_page("import")
    handing.pasted.setPlainText("top_speed = 320\nlives = 3")
    assert "1 differ from Wren" in handing.message.text()
    assert handing.found.chooser("lives").currentText() == "not used"
    handing.as_new_tune()
    assert window.session.study.tune("Wren, from the game").drive.top_speed == pytest.approx(10)
    handing.into_tune()
    assert window.session.study.tune("Wren").drive.top_speed == pytest.approx(10)
    handing.pasted.setPlainText("top_speed = -5")
    handing.into_tune()
    assert "must be a number from 0" in handing.message.text()
    handing.pasted.setPlainText("nothing")
    assert not handing.take_over.isEnabled()


def test_unchanged_numbers_keep_their_bits(window, handing):
    """A round trip through the numbers of the game marks nothing as changed."""
    handing.conventions.pixels.setValue(32)
    handing.conventions.per.setCurrentIndex(1)
    before = window.session.study
    handing.pasted.setPlainText(handing.text.toPlainText())
    assert " 0 differ" in handing.message.text()
    handing.into_tune()
    assert window.session.study == before


def test_the_proof_from_the_window(window, to, messages, tmp_path):
    to("proof")
    do(window, "proof")
    assert (tmp_path / "proof" / "index.html").exists()
    assert "Saved in" in messages[-1]


# Curves from the game


@pytest.fixture
def log(tmp_path):
    """A log of a game whose gravity is 2 u/s² below Wren's."""
    tune = DEMO.tune("Wren").put("gravity.gravity", 40.0)
    path = tmp_path / "yard.csv"
    path.write_text(expected_text(simulate(tune, DEMO.drill("Rooftop hop"), DEMO.clock), GAME))
    return path


@pytest.fixture
def importing(window, log, qtbot):
    window.session.choose_drill("Rooftop hop")
    window.session.edit("Conventions", window.session.study.model_copy(update={"conventions": GAME}))
    dialog = ImportLog(window.session, log, log.read_text(), window)
    qtbot.addWidget(dialog)
    return dialog


def test_a_log_is_overlaid_measured_and_undone(window, importing, messages):
    assert "leaves Wren" in importing.verdict.text()
    importing.accept()
    shown = window.session.shown[-1]
    assert shown.trace.logged
    assert shown.tune.name == "yard"
    heights = [each.readings["jump_height"].value for each in (window.session.shown[0], shown)]
    assert heights[1] > heights[0] + 0.05
    assert "leaves Wren" in messages[-1]
    # It has lanes, a readout and a path like a tune.
    assert len(window.page.stage.paths.drawn) == 3
    window.session.undo_stack.undo()
    assert not any(each.trace.logged for each in window.session.shown)


def test_a_log_has_a_column_among_the_figures_only(window, importing):
    sheet, figures = window.sheet.view.sheet, window.sheet.figures.sheet
    importing.accept()
    tunes, shown = len(window.session.tunes), window.session.shown[-1]
    assert [sheet.columnCount(), figures.columnCount()] == [FIRST_TUNE + tunes + 1] * 2
    assert figures.headerData(FIRST_TUNE + tunes, Qt.Orientation.Horizontal, Qt.ItemDataRole.DisplayRole).endswith(
        "yard"
    )
    cell = window.sheet.figures.cell("jump_height", "yard")
    assert cell.column() == FIRST_TUNE + tunes
    assert cell.data() == reading_text(shown.readings["jump_height"].value, "u")
    assert not figures.flags(cell) & Qt.ItemFlag.ItemIsEditable
    number = window.sheet.view.cell("gravity.gravity", "yard")
    assert sheet.cell_at(number) is None
    # It is not a tune: it cannot be the reference, renamed or copied.
    header = window.sheet.view.tune_header
    at = QPoint(header.sectionViewportPosition(FIRST_TUNE + tunes) + 5, 5)
    QTest.mouseClick(header.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.session.reference.name == "Wren"
    window.sheet.view.setCurrentIndex(number)
    assert window.sheet.view.current_tune() is None or window.sheet.view.current_tune().name != "yard"
    window.session.undo_stack.undo()
    assert figures.columnCount() == FIRST_TUNE + tunes


def test_the_sheet_makes_room_for_its_column_and_takes_it_back(window, importing, qtbot):
    window.resize(1600, 800)
    before = window.sheet.width()
    importing.accept()
    assert window.sheet.width() > before
    qtbot.waitUntil(lambda: window.sheet.figures.horizontalScrollBar().maximum() == 0)
    window.session.undo_stack.undo()
    assert window.sheet.width() == before


def test_a_log_can_be_lined_up_and_subtracted(window, importing):
    importing.accept()
    window.page.comparing.set(anchor="apex", differences=True)
    shown = window.session.shown[-1]
    assert window.page.comparing.shift(shown) > 0
    _, gap = window.page.comparing.over_time(shown, "y")
    assert abs(gap).max() > 0.05


@pytest.fixture
def strange(window, tmp_path, qtbot):
    """The dialog on a log of an unknown game: 16 px, y down, per frame, from frame 1201.5, at 50 frames per second."""
    window.session.choose_drill("Rooftop hop")
    trace = window.session.shown[0].trace
    frames = np.arange(1190, 1300)
    time = (frames - 1201.5) / 50
    x, y = (np.interp(time, trace["time"], trace[axis]) for axis in "xy")
    rows = zip(frames, 300 + 16 * x, 200 - 16 * y, np.gradient(x) * 16, strict=True)
    path = tmp_path / "strange.csv"
    path.write_text("FrameNo,PosXpx,PosYpx,VelX\n" + "".join(f"{f},{a:.4f},{b:.4f},{v:.4f}\n" for f, a, b, v in rows))
    dialog = ImportLog(window.session, path, path.read_text(), window)
    qtbot.addWidget(dialog)
    return dialog


def test_start_lag_scale_and_rate_of_an_unknown_log_are_proposed_and_drawn(strange, window):
    words = strange.proposed.text()
    assert "starts at frame 1201.5; 16 px per unit; y points down" in words
    assert strange.rate.value() == 50
    assert strange.per_frame.isChecked()
    drawn = strange.preview.curves("y")
    assert drawn[0][1].max() == pytest.approx(window.session.shown[0].trace["y"].max())
    assert drawn[1][1].max() == pytest.approx(drawn[0][1].max(), abs=0.01)
    assert drawn[1][0][0] == 0
    # A frame of the log is 1/50 s, a tick of the clock 1/60 s.
    assert "follows Wren" in strange.verdict.text() or "vx is" in strange.verdict.text()
    gaps = strange.verdict.text().splitlines()[-1]
    assert float(gaps.split("Greatest gaps: x ")[1].split()[0]) < 0.01


def test_each_detected_number_can_be_changed_and_detected_again(strange):
    strange.start.setValue(1195)
    assert strange.log.time[-1] == pytest.approx((1299 - 1195) / 50)
    strange.pixels.setValue(8)
    assert strange.preview.curves("y")[1][1].max() == pytest.approx(
        2 * strange.preview.curves("y")[0][1].max(), rel=0.1
    )
    strange.fit_button.click()
    assert (strange.start.value(), strange.pixels.value()) == (1201.5, 16)


def test_detected_conventions_are_adopted_in_the_same_edit(strange, window):
    assert strange.keep_conventions.isChecked()
    strange.accept()
    kept = window.session.study.conventions
    assert (kept.pixels_per_unit, kept.rate, kept.y_down, kept.per.value) == (16, 50, True, "frame")
    window.session.undo_stack.undo()
    assert window.session.study.conventions.pixels_per_unit == 1
    assert window.session.study.logs == ()


def test_stated_conventions_are_kept(importing, window):
    assert not importing.keep_conventions.isChecked()
    assert importing.pixels.value() == GAME.pixels_per_unit
    importing.pixels.setValue(64)
    importing.accept()
    assert window.session.study.conventions == GAME


def test_derived_columns_are_reported_and_stay_noted(window, importing, messages):
    importing.set_role(5, None)
    importing.accept()
    assert window.session.study.logs[0].derived == ("vy",)
    assert "Derived, since not logged: velocity y." in messages[-1]
    assert "Derived" in window.session.shown[-1].tune.note


def test_a_wrong_guess_is_corrected_by_hand(importing):
    importing.pixels.setValue(64)
    assert "y from 0.00 to 1.2" in importing.summary.text() or importing.log.y[60] == pytest.approx(importing.log.y[60])
    high = max(importing.log.y)
    importing.pixels.setValue(32)
    assert max(importing.log.y) == pytest.approx(2 * high)
    importing.y_down.setChecked(False)
    assert min(importing.log.y) == pytest.approx(-2 * high)
    importing.set_role(2, None)
    assert "x" in importing.log.derived
    importing.set_role(3, None)
    assert importing.log is None
    assert not importing.accept_button.isEnabled()
    assert "named as x or y" in importing.summary.text()


def test_a_file_that_is_not_a_log_is_refused_with_a_reason(window, messages, tmp_path):
    (tmp_path / "bad.csv").write_text("hello\nworld\n")
    window.exchange.import_log(tmp_path / "bad.csv")
    assert "not a table of numbers" in messages[-1]
    window.exchange.import_log(tmp_path / "none.csv")
    assert "No such file" in messages[-1]


def test_a_removed_curve_comes_back_with_undo(window, importing, messages):
    do(window, "remove_log")
    assert "no game log" in messages[-1]
    importing.accept()
    do(window, "remove_log")
    assert window.session.study.logs == ()
    window.session.undo_stack.undo()
    assert window.session.study.logs[0].name == "yard"


def test_a_difference_from_a_log_is_reported_without_a_cause(window, importing):
    importing.accept()
    window.session.toggle(window.session.study.tune("Bramble"))
    window.page.find_divergence()
    explaining = window.page.explaining
    assert "logged by the game" in explaining.parted.text()
    explaining.refresh()
    logged = next(each for each in explaining.columns if each.isVisible() and "yard" in each.words[0])
    assert logged.words[1:] == ["moved by the game: which rules acted there is not known here"]


# The report


@pytest.fixture
def contents(window, qtbot):
    dialog = ReportContents(window.session.study, window)
    qtbot.addWidget(dialog)
    return dialog


def test_the_report_contains_the_ticked_drills_and_curves(window, contents, monkeypatch, tmp_path, messages):
    assert [drill.name for drill in contents.chosen_drills] == [drill.name for drill in window.session.study.drills]
    assert contents.contents == Contents(logs=False)
    for ticks in (contents.drills, contents.curves):
        for row in range(ticks.count()):
            ticks.item(row).setCheckState(Qt.CheckState.Unchecked)
    assert not contents.save_button.isEnabled()
    contents.drills.findItems("Rooftop hop", Qt.MatchFlag.MatchExactly)[0].setCheckState(Qt.CheckState.Checked)
    assert not contents.save_button.isEnabled()
    contents.curves.findItems("Speed", Qt.MatchFlag.MatchExactly)[0].setCheckState(Qt.CheckState.Checked)
    assert contents.save_button.isEnabled()
    monkeypatch.setattr("cinetica.desk.dialogs.report_contents.ReportContents", lambda *_: contents)
    monkeypatch.setattr("cinetica.desk.export.exchange.run", lambda _: QDialog.DialogCode.Accepted)
    monkeypatch.setattr(window.exchange, "ask_where", lambda *_: tmp_path / "report.html")
    window.exchange.save_report()
    page = (tmp_path / "report.html").read_text()
    assert page.count('<section class="drill">') == 1
    assert "Speed, u/s" in page
    assert "Velocity x, u/s" not in page
    assert str(tmp_path) in messages[-1]


@pytest.mark.parametrize("cancels", [False, True])
def test_the_window_responds_while_a_pdf_is_made(window, monkeypatch, tmp_path, messages, cancels):
    """While a slow PDF is made, the progress bar says what is going on and can cancel it."""
    study, seen, goes_on = window.session.study, [], threading.Event()

    def slow(page):
        goes_on.wait(20)
        return b"%PDF-1.7"

    def look_at_it():
        bar = window.findChild(QProgressDialog)
        seen.append((bar.labelText(), bar.maximum()))
        if cancels:
            bar.cancel()
        goes_on.set()

    monkeypatch.setattr("cinetica.files.report.pdf_of", slow)
    QTimer.singleShot(300, look_at_it)
    path = tmp_path / "report.pdf"
    window.exchange.write_report(study, path, [study.drills[0]], EVERYTHING, "A4")
    assert seen == [("Setting the PDF…", 0)]
    assert path.exists() != cancels
    assert ("Cancelled" in messages[-1]) == cancels


def test_a_source_file_gives_a_row_for_each_number_of_the_tune_and_a_few_others(handing):
    others = "".join(f"int other_{number} = {number};\n" for number in range(300))
    handing.pasted.setPlainText(others + "float top_speed = 6;\n")
    assert handing.found.values == {"drive.top_speed": 6.0}
    assert handing.found.rowCount() == 101


# Background tasks


def test_a_background_task_returns_its_result_or_its_error(window):
    from threading import get_ident

    from cinetica.desk.export.waiting import finished

    assert finished(get_ident, "Proof", "Writing…", window) != get_ident()

    def fails():
        raise OSError(28, "No space left on device", "/full")

    with pytest.raises(OSError, match="No space left"):
        finished(fails, "Proof", "Writing…", window)
