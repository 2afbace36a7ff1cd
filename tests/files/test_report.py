"""The sheet to show: a document, with figures whose lines are the traces."""

import re
import xml.etree.ElementTree as ET

import pytest

from cinetica.files.figures import curves_svg, stage_svg
from cinetica.files.report import report_html, write_report
from cinetica.files.shipped import shipped_study
from cinetica.motion.simulate import simulate
from cinetica.palette import DASHES, DAY

STUDY = shipped_study("harbour")
SVG = "{http://www.w3.org/2000/svg}"


def traces_of(drill):
    return [simulate(tune, drill, STUDY.clock) for tune in STUDY.tunes_for(drill)]


def curves_in(svg, ink):
    lines = [line for line in ET.fromstring(svg).iter(f"{SVG}polyline") if line.get("stroke") == ink]
    return [[tuple(map(float, pair.split(","))) for pair in line.get("points").split()] for line in lines]


@pytest.mark.parametrize("drill", STUDY.drills, ids=lambda drill: drill.name)
def test_figures_are_lines_with_letter_and_dash(drill):
    traces = traces_of(drill)
    for svg in (stage_svg(drill, traces), curves_svg(drill, traces)):
        root = ET.fromstring(svg)
        letters = {text.text for text in root.iter(f"{SVG}text")}
        assert {"AB"[place] for place in range(len(traces))} <= letters
        assert not list(root.iter(f"{SVG}image"))
        sizes = [float(root.get("font-size"))]
        assert min(sizes) >= 10


def test_a_curve_in_the_figure_is_the_trace():
    drill = STUDY.drill("Rooftop hop")
    traces = traces_of(drill)
    legend, vx, vy, height = curves_in(curves_svg(drill, traces), DAY.inks[0])
    assert len(legend) == 2
    for line, column in ((vx, "vx"), (vy, "vy"), (height, "y")):
        assert len(line) == len(traces[0])
        values = traces[0][column]
        # Pixels are a straight line of values: the highest lies highest, and half way is half way.
        highest, lowest = min(y for _, y in line), max(y for _, y in line)
        expected = lowest - (values - values.min()) / (values.max() - values.min()) * (lowest - highest)
        assert [y for _, y in line] == pytest.approx(expected.tolist(), abs=0.02)


def test_bramble_is_dashed_and_wren_is_not():
    drill = STUDY.drill("Quay sprint")
    lines = list(ET.fromstring(curves_svg(drill, traces_of(drill))).iter(f"{SVG}polyline"))
    dashes = {
        ink: {line.get("stroke-dasharray") for line in lines if line.get("stroke") == ink} for ink in DAY.inks[:2]
    }
    assert dashes[DAY.inks[0]] == {None}
    assert dashes[DAY.inks[1]] == {" ".join(f"{2 * length:g}" for length in DASHES[1])}


def test_what_a_person_has_written_is_no_markup():
    drill = STUDY.drills[0].model_copy(update={"name": "<b>Hop</b> & “x”", "note": "<script>alert(1)</script>"})
    study = STUDY.model_copy(update={"drills": (drill,), "name": 'A"</style><i>', "notes": "<img src=x>"})
    page = report_html(study, study.drills)
    assert page is not None
    for foreign in ("<script", "<img", "<i>", "<b>"):
        assert foreign not in page
    assert "&lt;script&gt;" in page


def test_the_pdf_has_page_numbers_and_fonts_and_no_pixels(tmp_path):
    path = tmp_path / "sheet.pdf"
    assert write_report(STUDY, STUDY.drills[:2], path)
    content = path.read_bytes()
    assert content.startswith(b"%PDF")
    assert b"/Subtype /Image" not in content
    assert re.search(rb"/FontFile[23]?\b", content) or b"/ObjStm" in content


def test_it_can_be_called_off_and_nothing_is_written(tmp_path):
    told = []

    def stop(done, of):
        told.append((done, of))
        return done < 2

    assert not write_report(STUDY, STUDY.drills, tmp_path / "sheet.html", stop)
    assert told == [(0, len(STUDY.drills)), (1, len(STUDY.drills)), (2, len(STUDY.drills))]
    assert list(tmp_path.iterdir()) == []
