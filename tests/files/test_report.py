"""The report: a document with figures whose lines are the traces."""

import re
import xml.etree.ElementTree as ET

import pytest
from weasyprint import HTML

from cinetica.files import report
from cinetica.files import report_page as page
from cinetica.files.figures import channels_of, curves_svg, stage_svg
from cinetica.files.report import Contents, report_html, write_report
from cinetica.files.shipped import shipped_study
from cinetica.model import editing
from cinetica.model.milestone import Logged
from cinetica.model.targets import Target
from cinetica.model.tune import PARAMETERS
from cinetica.motion.simulate import simulate
from cinetica.palette import DAY
from cinetica.reading.channels import BY_COLUMN
from cinetica.reading.reading_off import read_off
from tests.builders import make_drill, make_tune, run

STUDY = shipped_study("harbour")
SVG = "{http://www.w3.org/2000/svg}"


def traces_of(drill):
    return [simulate(tune, drill, STUDY.clock) for tune in STUDY.tunes_for(drill)]


def lines_in(svg, ink):
    """The points of every open line of a colour, with its dashes."""
    found = []
    for path in ET.fromstring(svg).iter(f"{SVG}path"):
        look = dict(part.split(": ") for part in (path.get("style") or "").split("; ") if ": " in part)
        if look.get("fill") == "none" and look.get("stroke") == ink.lower() and "z" not in path.get("d"):
            points = re.findall(r"[ML] ([-\d.]+) ([-\d.]+)", path.get("d"))
            found.append(([(float(x), float(y)) for x, y in points], look.get("stroke-dasharray")))
    return found


@pytest.mark.thorough
@pytest.mark.parametrize("drill", STUDY.drills, ids=lambda drill: drill.name)
def test_figures_are_lines_with_letters_and_text(drill):
    traces = traces_of(drill)
    for svg in (stage_svg(drill, traces), curves_svg(drill, traces)):
        root = ET.fromstring(svg)
        words = {text.text for text in root.iter(f"{SVG}text")}
        for place, trace in enumerate(traces):
            assert {"AB"[place], f"{'AB'[place]}  {trace.tune.name}"} <= words
        assert not list(root.iter(f"{SVG}image"))
        sizes = [float(size) for size in re.findall(r"font(?:-size)?: (?:[\w ]+ )?([\d.]+)px", svg)]
        assert min(sizes) >= 9


def test_a_curve_in_the_figure_equals_the_trace():
    drill = STUDY.drill("Rooftop hop")
    traces = traces_of(drill)
    curves = [line for line, _ in lines_in(curves_svg(drill, traces), DAY.inks[0]) if len(line) == len(traces[0])]
    for line, column in zip(curves, ("vx", "vy", "y"), strict=True):
        values, times = traces[0][column], traces[0]["time"]
        # Pixels are linear in the values: the highest is at the top, and half way is half way.
        highest, lowest = min(y for _, y in line), max(y for _, y in line)
        expected = lowest - (values - values.min()) / (values.max() - values.min()) * (lowest - highest)
        assert [y for _, y in line] == pytest.approx(expected.tolist(), abs=0.02)
        across = line[0][0] + times / times[-1] * (line[-1][0] - line[0][0])
        assert [x for x, _ in line] == pytest.approx(across.tolist(), abs=0.02)


def shapes_in(svg, fill):
    """The boxes (left, top, right, bottom) of every closed shape of a fill."""
    found = []
    for path in ET.fromstring(svg).iter(f"{SVG}path"):
        if f"fill: {fill.lower()}" in (path.get("style") or "") and "z" in path.get("d"):
            points = [(float(x), float(y)) for x, y in re.findall(r"[ML] ([-\d.]+) ([-\d.]+)", path.get("d"))]
            x, y = zip(*points, strict=True)
            found.append((min(x), min(y), max(x), max(y)))
    return found


def test_the_stage_is_drawn_to_scale_with_the_path_centred():
    """A floor, a step of 3 x 2 u and a run over the floor: one scale for both axes, everything in its place."""
    drill = make_drill(right=[(0, 60)], solids=[(-20, -1, 40, 0), (12, 0, 15, 2)], length=60)
    trace = simulate(STUDY.tune("Wren"), drill, STUDY.clock)
    svg = stage_svg(drill, [trace])
    (path,) = [line for line, _ in lines_in(svg, DAY.inks[0]) if len(line) == len(trace)]
    unit = (path[-1][0] - path[0][0]) / (trace["x"][-1] - trace["x"][0])
    step = min(shapes_in(svg, DAY.earth), key=lambda box: box[2] - box[0])
    left, top, right, bottom = step
    assert right - left == pytest.approx(3 * unit, rel=1e-3)
    assert bottom - top == pytest.approx(2 * unit, rel=1e-3)
    assert left - path[0][0] == pytest.approx((12 - trace["x"][0]) * unit, abs=0.1)
    # The path follows the centre of the body, 0.8 u above the floor on which the step stands.
    assert bottom - path[0][1] == pytest.approx(0.8 * unit, rel=1e-3)
    # Of 720 pt, 56 pt at the left are for the numbers and 24 at the right are free.
    assert (path[0][0] + path[-1][0]) / 2 == pytest.approx((56 + 720 - 24) / 2, abs=0.5)
    assert ET.fromstring(svg).get("viewBox").split()[2] == "720"


def test_presses_are_bars_in_separate_lanes():
    """Right is held for the first half of the take, jump for a quarter after it: half as long, in another lane."""
    drill = make_drill(right=[(0, 40)], jump=[(40, 60)], length=80)
    svg = curves_svg(drill, [run(make_tune(), drill)])
    first, second = sorted(shapes_in(svg, DAY.accent))
    assert first[2] == pytest.approx(second[0], abs=0.1)
    assert first[2] - first[0] == pytest.approx(2 * (second[2] - second[0]), abs=0.2)
    assert second[3] < first[1] or first[3] < second[1]


def test_many_figures_of_few_tunes_are_split_into_two_tables():
    page = report_html(STUDY, [STUDY.drill("Rooftop hop")])
    assert page.count("<tr><th>Read off</th>") == 2
    crowd = STUDY
    for number in range(3):
        crowd = editing.with_new_tune(crowd, STUDY.tune("Wren").model_copy(update={"name": f"Wren {number}"}))
    assert report_html(crowd, [crowd.drill("Rooftop hop")]).count("<tr><th>Read off</th>") == 1
    still = make_drill(length=30).model_copy(update={"name": "Still"})
    assert report_html(STUDY, [still]).count("<tr><th>Read off</th>") == 1


@pytest.mark.parametrize(("count", "tables"), [(5, [5]), (6, [3, 3]), (7, [4, 3])])
def test_of_two_tables_the_first_is_not_shorter(monkeypatch, count, tables):
    monkeypatch.setattr(report, "read_off", lambda trace: dict(list(read_off(trace).items())[:count]))
    page = report_html(STUDY, [STUDY.drill("Rooftop hop")])
    found = [table for table in re.findall(r"<table.*?</table>", page, re.DOTALL) if "<th>Read off</th>" in table]
    assert [table.count("<tr>") - 1 for table in found] == tables


def test_bramble_is_dashed_and_wren_is_not():
    drill = STUDY.drill("Quay sprint")
    for svg in (curves_svg(drill, traces_of(drill)), stage_svg(drill, traces_of(drill))):
        wren, bramble = ({dashes for points, dashes in lines_in(svg, ink) if len(points) > 9} for ink in DAY.inks[:2])
        assert wren == {None}
        assert len(bramble - {None}) == len(bramble) == 1


def test_figures_are_reproducible_files():
    drill = STUDY.drill("Stick sweep")
    assert curves_svg(drill, traces_of(drill)) == curves_svg(drill, traces_of(drill))
    assert stage_svg(drill, traces_of(drill)) == stage_svg(drill, traces_of(drill))


def test_a_night_figure_replaces_every_colour():
    page = report_html(STUDY, [STUDY.drill("Rooftop hop")])
    assert page is not None
    dark = page[page.index("prefers-color-scheme: dark") : page.index("@page")]
    figures = page[page.index("<svg") : page.rindex("</svg>")]
    used = set(re.findall(r"(?:stroke|fill): (#[0-9a-f]{6})", figures))
    assert {DAY.inks[0].lower(), DAY.earth.lower(), DAY.ink.lower()} <= used
    assert [colour for colour in used if f': {colour}"]' not in dark] == []


def test_user_text_is_not_markup():
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


@pytest.mark.thorough
@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_each_drill_has_one_page_with_all_its_figures_below_its_curves(paper):
    names = ("Gutter's edge", "Early knock", "Net loft")
    study = editing.with_target(STUDY, names[1], Target(measure="jump_height", low=2.0))
    page = report_html(study, [study.drill(name) for name in names], paper=paper)
    first = page.index('<section class="drill">')
    pages = HTML(string=page[page.index("<style>") : page.index("</head>")] + page[first : page.rindex("</section>")])
    assert len(pages.render().pages) == len(names)


@pytest.mark.parametrize(("paper", "rows"), [("A4", (9, 4)), ("Letter", (5, 3))])
def test_a_full_page_leaves_nothing_over(paper, rows):
    """Heading, paragraphs of one and two lines, figures with their numbers, and two tables add up to the paper."""
    words, lanes, strips = ("short", "x" * (page.LETTERS + 1)), 5, 3
    stage, strip = page.heights(paper, words, 120.0, lanes, strips, rows)
    assert page.LEAST_STRIP < strip < page.STRIP
    figures = stage + strips * (strip + page.TITLE) + 2 * (page.TOP + page.BOTTOM) + page.LANE * lanes + 4
    wide, high = page.ROOM[paper]
    text = page.HEADING + 2 * page.PARAGRAPH + 3 * page.LINE + 2 * page.FIGURE + 2 * page.TABLE + page.ROW * sum(rows)
    assert figures * wide / page.WIDTH + text == pytest.approx(high)


def test_constant_zero_curves_are_named_instead_of_drawn():
    page = report_html(STUDY, [STUDY.drill("Quay sprint")])
    assert "Velocity y and Height stay 0." in page
    assert "Height, u" not in page
    # If no curve moves, they are all shown.
    idle = make_drill(length=30)
    assert channels_of(idle, [run(make_tune(), idle)], ["vx", "x"]) == ([BY_COLUMN["vx"], BY_COLUMN["x"]], "")


def test_counts_have_no_decimals_and_choices_no_underscores():
    page = report_html(STUDY, [STUDY.drill("Early knock")])
    cells = dict(re.findall(r"<tr><td>([^<]*) <span[^>]*>[^<]*</span></td><td class=\"n\">([^<]*)</td>", page))
    assert (cells["Lost presses"], cells["Frames that work"]) == ("0", "51")
    assert cells["Drop through"] == "down jump"


def test_the_report_has_the_chosen_curves_and_logs():
    drill = STUDY.drill("Rooftop hop")
    trace = simulate(STUDY.tune("Wren"), drill, STUDY.clock)
    rows = {column: tuple(trace[column].tolist()) for column in ("time", "x", "y", "vx", "vy")}
    study = editing.with_log(STUDY, Logged(name="Yard run", drill=drill.name, **rows))
    usual = report_html(study, [drill])
    # Once at the top of each half of the table, and in the legend of each figure.
    assert usual.count("Yard run") >= 4
    assert "Height, u" in usual
    chosen = report_html(study, [drill], contents=Contents(("speed", "ax"), logs=False))
    assert "Yard run" not in chosen
    assert "Height, u" not in chosen
    assert "Speed, u/s" in chosen
    assert "Acceleration x, u/s²" in chosen


def test_a_cancelled_report_writes_nothing(tmp_path):
    messages = []

    def stop(done, of):
        messages.append((done, of))
        return done < 2

    assert not write_report(STUDY, STUDY.drills, tmp_path / "sheet.html", stop)
    assert messages == [(0, len(STUDY.drills)), (1, len(STUDY.drills)), (2, len(STUDY.drills))]
    assert list(tmp_path.iterdir()) == []


def test_the_first_page_says_what_was_changed_and_which_targets_are_missed():
    study = shipped_study("harbour")
    study = editing.with_milestone(study, "Before the fair", "2026-11-28T10:00:00+01:00")
    study = study.with_tune(study.tune("Wren").put("gravity.gravity", 30.0), instead_of="Wren")
    for low in (2.0, 9.0):
        study = editing.with_target(study, "Rooftop hop", Target(measure="jump_height", low=low, tunes=("Wren",)))
    study = editing.with_target(study, "Rooftop hop", Target(measure="air_time", low=0.1, tunes=("Bramble",)))
    page = report_html(study, [study.drill("Rooftop hop")])
    first = page[: page.index("<h2>Seen from the side")]
    assert "Targets: 1 of 2 missed" in first
    assert "✗ Jump height of Wren on Rooftop hop: wanted ≥ 9 u" in first
    assert "Changed since “Before the fair”" in first
    assert "Wren: Gravity 42 → 30" in first
    # The largest first, and no more than three.
    moved = first[first.index("moved most") :]
    assert moved.count("<li>") == 3
    assert "of Wren on Rooftop hop:" in moved
    assert "Bramble" not in moved


def test_a_report_without_targets_and_milestones_begins_with_the_tunes():
    page = report_html(shipped_study("harbour"), [])
    assert "moved most" not in page
    assert "Targets:" not in page


def test_the_report_lists_the_numbers_that_were_set():
    study = shipped_study("harbour")
    page = report_html(study, [])
    side = page[page.index("Seen from the side") : page.index("Seen from above")]
    rows = set(re.findall(r"<tr><td>([^<]+?) <span", side))
    wren, bramble = study.tune("Wren").values(), study.tune("Bramble").values()
    set_ones = {each.label for each in PARAMETERS if {wren[each.id], bramble[each.id]} != {each.default}}
    assert rows
    assert rows <= set_ones
    assert "Top speed" in rows
    assert "Reference rate" not in rows
