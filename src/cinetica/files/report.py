"""The report: one self-contained document with tunes, curves, measures and notes; and tables.

It is HTML that a browser shows by day and by night, on a desk and on a phone, and that WeasyPrint sets as a PDF with
the same vector figures.
"""

from __future__ import annotations

import base64
import csv
import io
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from cinetica.files.atomic_write import write_atomically
from cinetica.files.figures import channels_of, curves_svg, lanes_of, stage_height, stage_svg
from cinetica.files.reading import Refused
from cinetica.files.report_page import heights
from cinetica.files.templates import template
from cinetica.model.clock import clock_words
from cinetica.model.edit_words import changed_tunes
from cinetica.model.parameters import SECTIONS
from cinetica.model.study import Drill, Study
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.motion.simulate import simulate
from cinetica.palette import DAY, NIGHT, letter
from cinetica.reading.display_units import DisplayUnits, display_units
from cinetica.reading.figure_changes import FigureChange, moved
from cinetica.reading.logs import trace_of
from cinetica.reading.measures import MEASURES, Reading
from cinetica.reading.reading_off import read_off
from cinetica.reading.targets import Verdict, judge, summary, verdicts

# Called while the report is made: drills drawn so far, and drills in all. Returns False to cancel.
Progress = Callable[[int, int], bool]
# Up to this many tunes leave room for two tables side by side.
FEW = 3
VIEWS = (("side", "Seen from the side"), ("top", "Seen from above"))
NO_PDF = (
    "A PDF is set with the library Pango, which is not here; install it with: sudo apt-get install -y libpango-1.0-0 "
    "libpangoft2-1.0-0 libharfbuzz-subset0. A page (.html) needs nothing."
)


# The text of an empty cell.
NONE = "–"
# Longer tables are left out of the report: export them as files.
LONGEST_TABLE = 60
# The number of figures listed on the first page.
MOST_MOVED = 3


@dataclass(frozen=True)
class Pinned:
    """A picture added from the page Survey, as SVG, and its table."""

    title: str
    svg: bytes
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]

    @property
    def picture(self) -> str:
        """The picture as a data URL, which no markup in it can escape."""
        return f"data:image/svg+xml;base64,{base64.b64encode(self.svg).decode()}"

    @property
    def shown_rows(self) -> tuple[tuple[str, ...], ...]:
        """The table's rows; empty if the table is too long."""
        return self.rows if len(self.rows) <= LONGEST_TABLE else ()


@dataclass(frozen=True)
class Contents:
    """The report's choice for each drill: these columns of a trace as curves (none: the usual ones), and game logs."""

    channels: tuple[str, ...] = ()
    logs: bool = True


EVERYTHING = Contents()


def measures_of(study: Study, drill: Drill) -> list[tuple[Tune, dict[str, Reading]]]:
    """The figures of every tune on a drill."""
    return [(tune, read_off(simulate(tune, drill, study.clock))) for tune in study.tunes_for(drill)]


def in_a_cell(text: str) -> str:
    """A text for a cell of a spreadsheet: what it would run as a formula stays text."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def measures_csv(study: Study, drills: Iterable[Drill]) -> str:
    """One line for each measure of each tune on each drill."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(("drill", "tune", "measure", "value", "unit", "ticks"))
    units = display_units(study)
    for drill in drills:
        for tune, readings in measures_of(study, drill):
            for measure in MEASURES:
                if (reading := readings.get(measure.id)) is not None:
                    ticks = "" if reading.ticks is None else reading.ticks
                    writer.writerow(
                        (
                            in_a_cell(drill.name),
                            in_a_cell(tune.name),
                            measure.id,
                            repr(units.reading(measure, float(reading.value))),
                            units.unit(measure.unit),
                            ticks,
                        )
                    )
    return out.getvalue()


def _numbers(tunes: Sequence[Tune], units: DisplayUnits) -> list[dict[str, object]]:
    """Numbers that matter to at least one tune and are not at their default, in the groups of the sheet."""
    values = [tune.values() for tune in tunes]
    groups: dict[str, list[dict[str, object]]] = {section: [] for section in SECTIONS}
    for parameter in PARAMETERS:
        mine = [each[parameter.id] for each in values]
        matters = [parameter.matters(tune.view, each) for tune, each in zip(tunes, values, strict=True)]
        if any(matters) and any(value != parameter.default for value in mine):
            cells = [
                units.text(parameter, value, own) if used else NONE
                for value, used, own in zip(mine, matters, values, strict=True)
            ]
            unit = units.parameter_unit(parameter)
            groups[parameter.section].append({"label": parameter.label, "unit": unit, "cells": cells})
    return [{"title": title, "rows": rows} for title, rows in groups.items() if rows]


def _measures(read: Sequence[tuple[Tune, dict[str, Reading]]], units: DisplayUnits) -> list[list[dict[str, object]]]:
    """Split into halves, to be set side by side if there are few tunes."""
    rows: list[dict[str, object]] = []
    for measure in MEASURES:
        found = [readings.get(measure.id) for _, readings in read]
        cells = [NONE if each is None else units.reading_text(measure, each.value) for each in found]
        if set(cells) - {NONE}:
            rows.append({"label": measure.label, "unit": units.unit(measure.unit), "cells": cells})
    half = (len(rows) + 1) // 2
    return [rows[:half], rows[half:]] if len(rows) > 5 and len(read) <= FEW else [rows]


def _colours() -> list[tuple[str, str]]:
    """The colours of figures by day, as Matplotlib writes them, each with its colour by night."""
    names = ("paper", "grid_fine", "grid", "ink", "soft", "accent", "earth", "earth_edge")
    pairs = [(getattr(DAY, name), getattr(NIGHT, name)) for name in names]
    return [(day.lower(), night) for day, night in (*pairs, *zip(DAY.inks, NIGHT.inks, strict=True))]


@dataclass(frozen=True)
class Opening:
    """What the first page says: what was changed, which targets are met, and which figures moved most."""

    since: str
    changed: str
    targets: str
    missed: tuple[Verdict, ...]
    moved: tuple[str, ...]


def opening_of(study: Study, drills: Sequence[Drill]) -> Opening:
    """The verdict on these drills, and what has changed since the last milestone, if there is one."""
    units = display_units(study)
    found = verdicts(study, drills=[drill.name for drill in drills], units=units)
    missed = tuple(each for each in found if each.missed)
    targets = summary(found) if found else ""
    if not study.milestones:
        return Opening("", "", targets, missed, ())
    last = study.milestones[-1]
    then = {tune.name: tune for tune in last.tunes}
    changes = []
    for drill in drills:
        for place, tune in enumerate(study.tunes_for(drill)):
            before = then.get(tune.name)
            if before is None or before == tune or before.view != tune.view:
                continue
            was, now = (read_off(simulate(each, drill, study.clock)) for each in (before, tune))
            changes += [(drill.name, each) for each in moved(place, tune.name, was, now)]
    changes.sort(key=lambda pair: -pair[1].share)
    words = tuple(_change_words(drill, each, units) for drill, each in changes[:MOST_MOVED])
    return Opening(last.name, changed_tunes(last.tunes, study.tunes, units.value), targets, missed, words)


def _change_words(drill: str, change: FigureChange, units: DisplayUnits) -> str:
    was, now = (
        "not shown"
        if value is None
        else f"{units.reading(change.measure, value):.3g} {units.unit(change.measure.unit)}".rstrip().replace("-", "−")
        for value in (change.before, change.after)
    )
    return f"{change.measure.label} of {change.tune} on {drill}: {was} → {now}"


def _drill(study: Study, drill: Drill, contents: Contents, paper: str) -> dict[str, object]:
    units = display_units(study)
    traces = [simulate(tune, drill, study.clock) for tune in study.tunes_for(drill)]
    targets = [each for trace in traces for each in judge(drill, trace.tune, read_off(trace), units)]
    if contents.logs:
        traces += [trace_of(log, drill, study.clock) for log in study.logs if log.drill == drill.name]
    heads = [{"letter": letter(place), "tune": trace.tune} for place, trace in enumerate(traces)]
    measures = _measures([(trace.tune, read_off(trace)) for trace in traces], units)
    channels, left_out = channels_of(drill, traces, contents.channels)
    # Half of them stand next to the other half, and the first half is not shorter.
    tables = [1 + len(measures[0]), *([1 + len(targets)] if targets else [])]
    lanes = max(1, len(lanes_of(drill))) + len(traces)
    words = tuple(each for each in (drill.note, left_out) if each)
    stage, strip = heights(paper, words, stage_height(traces), lanes, len(channels), tuple(tables))
    return {
        "name": drill.name, "note": drill.note, "left_out": left_out,
        "figures": [stage_svg(drill, traces, stage, units), curves_svg(drill, traces, contents.channels, strip, units)],
        "heads": heads, "measures": measures, "targets": targets,
    }  # fmt: skip


def _go_on(done: int, of: int) -> bool:
    return True


def report_html(
    study: Study,
    drills: Sequence[Drill],
    progress: Progress = _go_on,
    paper: str = "A4",
    pinned: Sequence[Pinned] = (),
    contents: Contents = EVERYTHING,
) -> str | None:
    """A self-contained HTML page; None if it was cancelled."""
    views = []
    done = 0
    for view, title in VIEWS:
        tunes = [tune for tune in study.tunes if tune.view == view]
        drawn = []
        for drill in (drill for drill in drills if drill.view == view and tunes):
            if not progress(done, len(drills)):
                return None
            drawn.append(_drill(study, drill, contents, paper))
            done += 1
        if tunes:
            heads = [{"letter": letter(place), "tune": tune} for place, tune in enumerate(tunes)]
            views.append(
                {"title": title, "heads": heads, "numbers": _numbers(tunes, display_units(study)), "drills": drawn}
            )
    return template("report.html.j2").render(
        study=study,
        opening=opening_of(study, drills),
        clock=clock_words(study.clock),
        views=views,
        day=DAY,
        night=NIGHT,
        colours=_colours(),
        paper=paper,
        pinned=pinned,
    )


def write_report(
    study: Study,
    drills: Sequence[Drill],
    path: Path,
    progress: Progress = _go_on,
    *,
    paper: str = "A4",
    pinned: Sequence[Pinned] = (),
    contents: Contents = EVERYTHING,
) -> bool:
    """Write the report as PDF or, with any other suffix, HTML; False if it was cancelled.

    Raises OSError if it cannot be written, Refused if the PDF library is missing.
    """
    page = report_html(study, drills, progress, paper, pinned, contents)
    if page is None:
        return False
    write_atomically(path, pdf_of(page) if path.suffix.lower() == ".pdf" else page.encode())
    return True


def pdf_of(page: str) -> bytes:
    """A page set as a PDF; Refused if the PDF library is missing."""
    try:
        from weasyprint import HTML
    except OSError as error:
        raise Refused([NO_PDF]) from error
    return bytes(HTML(string=page).write_pdf())
