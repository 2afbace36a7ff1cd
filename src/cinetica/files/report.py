"""The sheet to show: one self-contained page with the tunes side by side, the curves, the measures and the notes; and tables."""

from __future__ import annotations

import csv
import html
import io
from collections.abc import Iterable, Mapping, Sequence

from cinetica.model.parameters import Value
from cinetica.model.study import Drill, Study
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.motion.simulate import simulate
from cinetica.reading.measures import MEASURES, Reading, read_off

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
STYLE = """
body { font-family: Inter, sans-serif; font-size: 14px; color: #2B2A27; background: #FBF8F1; max-width: 1060px; margin: 24px auto; padding: 0 16px; }
h1, h2, h3 { color: #153A40; } h2 { margin-top: 32px; } p { line-height: 1.45; }
table { border-collapse: collapse; margin: 8px 0 16px 0; } td, th { padding: 2px 18px 2px 0; border-bottom: 1px solid #DACFB8; text-align: left; }
td.n, th.n { text-align: right; font-variant-numeric: tabular-nums; } .soft { color: #6B6356; } img { max-width: 100%; display: block; margin: 8px 0; }
"""


def measures_of(study: Study, drill: Drill) -> list[tuple[Tune, dict[str, Reading]]]:
    """What is read off every tune on a drill."""
    return [(tune, read_off(simulate(tune, drill, study.clock))) for tune in study.tunes_for(drill)]


def measures_csv(study: Study, drills: Iterable[Drill]) -> str:
    """A line for each measure of each tune on each drill."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(("drill", "tune", "measure", "value", "unit", "ticks"))
    for drill in drills:
        for tune, readings in measures_of(study, drill):
            for measure in MEASURES:
                if (reading := readings.get(measure.id)) is not None:
                    ticks = "" if reading.ticks is None else reading.ticks
                    writer.writerow((drill.name, tune.name, measure.id, repr(float(reading.value)), measure.unit, ticks))
    return out.getvalue()


def _shown(value: Value) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    return f"{value:g}" if isinstance(value, int | float) else str(value)


def _row(cells: Iterable[str], *, kind: str = "td") -> str:
    first, *rest = cells
    figures = "".join(f'<{kind} class="n">{cell}</{kind}>' for cell in rest)
    return f"<tr><{kind}>{first}</{kind}>{figures}</tr>"


def _heads(tunes: Sequence[Tune]) -> list[str]:
    return [f"{LETTERS[place % 26]} {html.escape(tune.name)}" for place, tune in enumerate(tunes)]


def _numbers(tunes: Sequence[Tune]) -> str:
    """What matters to one of the tunes and is not what everyone has at first, tune by tune."""
    values = [tune.values() for tune in tunes]
    rows = []
    for parameter in PARAMETERS:
        mine = [each[parameter.id] for each in values]
        matters = [parameter.matters(tune.view, each) for tune, each in zip(tunes, values, strict=True)]
        if any(matters) and any(value != parameter.default for value in mine):
            label = f"{html.escape(parameter.label)} <span class='soft'>{html.escape(parameter.unit)}</span>"
            rows.append(_row([label, *(_shown(value) if used else "·" for value, used in zip(mine, matters, strict=True))]))
    if not rows:
        return "<p class='soft'>Every number is what it is at first.</p>"
    return f"<table>{_row(['', *_heads(tunes)], kind='th')}{''.join(rows)}</table>"


def _measures(read: Sequence[tuple[Tune, dict[str, Reading]]]) -> str:
    rows = []
    for measure in MEASURES:
        cells = [f"{readings[measure.id].value:.3f}" if measure.id in readings else "·" for _, readings in read]
        if set(cells) != {"·"}:
            rows.append(_row([f"{html.escape(measure.label)} <span class='soft'>{html.escape(measure.unit)}</span>", *cells]))
    return f"<table>{_row(['', *_heads([tune for tune, _ in read])], kind='th')}{''.join(rows)}</table>"


def report_html(study: Study, drills: Sequence[Drill], pictures: Mapping[str, Sequence[str]], clock: str) -> str:
    """One HTML page that needs nothing else. `pictures` has, by the drill's name, what stands in the src of each of its images."""
    notes = f"<p>{html.escape(study.notes)}</p>" if study.notes else ""
    parts = [f"<h1>{html.escape(study.name)}</h1>", notes, f"<p class='soft'>Clock: {html.escape(clock)}</p>"]
    for view, title in (("side", "Seen from the side"), ("top", "Seen from above")):
        tunes = [tune for tune in study.tunes if tune.view == view]
        here = [drill for drill in drills if drill.view == view]
        if not tunes:
            continue
        parts.append(f"<h2>{title}</h2><h3>Tunes</h3>")
        parts += [f"<p><b>{head}</b>  {html.escape(tune.note)}</p>" for head, tune in zip(_heads(tunes), tunes, strict=True)]
        parts.append(_numbers(tunes))
        for drill in here:
            parts += [f'<h3 class="drill">{html.escape(drill.name)}</h3>', f"<p>{html.escape(drill.note)}</p>"]
            words = f"Path and curves on {html.escape(drill.name)}"
            parts += [f'<img src="{source}" alt="{words}" width="1000">' for source in pictures.get(drill.name, ())]
            parts.append(_measures(measures_of(study, drill)))
    body = "\n".join(part for part in parts if part)
    head = f'<meta charset="utf-8"><title>{html.escape(study.name)}</title><style>{STYLE}</style>'
    return f'<!DOCTYPE html>\n<html lang="en"><head>{head}</head>\n<body>\n{body}\n</body></html>\n'
