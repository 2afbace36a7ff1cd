"""Figures for paper and for pages: the stage of a drill, and its hands, states and curves, as SVG with a legend of its
own."""

from __future__ import annotations

import math
import xml.etree.ElementTree as ET
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.course import Rectangle
from cinetica.model.study import Drill
from cinetica.model.take import KEYS
from cinetica.motion.records import APEX, LAND, LAUNCH, PRESS
from cinetica.motion.simulate import Trace
from cinetica.palette import DASHES, DAY, letter, style
from cinetica.reading.body import too_steep
from cinetica.reading.channels import FIRST_PRESET, PRESETS, Channel
from cinetica.reading.spans import state_spans

# Units of the drawing; a page of A4 shows one as about a pixel.
WIDTH, LEFT, RIGHT = 720.0, 64.0, 26.0
TEXT, LINE = 11, 15
STRIP, LANE, TITLE = 116.0, 16.0, 14.0
HIGHEST, LOWEST = 220.0, 90.0
PRINT_EVERY = 6
# A slope on which nobody walks.
BROKEN = (6, 4)
LEAST_WORD = 46.0


# From the units of the stage, or from a time, to the drawing.
At = Callable[[float, float], tuple[float, float]]
AtTime = Callable[[float], float]


class Drawing:
    """An SVG that grows downward. Colours are those of the day; classes let a page put others in their place."""

    def __init__(self, title: str) -> None:
        self.height = 0.0
        self.root = ET.Element(
            "svg",
            {
                "xmlns": "http://www.w3.org/2000/svg",
                "role": "img",
                "font-family": "Inter, sans-serif",
                "font-size": str(TEXT),
            },
        )
        ET.SubElement(self.root, "title").text = title
        self._clips = 0

    def add(self, tag: str, kind: str, parent: ET.Element | None = None, **attributes: object) -> ET.Element:
        words = {name.replace("_", "-"): _attribute(value) for name, value in attributes.items()}
        return ET.SubElement(self.root if parent is None else parent, tag, {"class": kind, **words})

    def text(
        self, x: float, y: float, words: str, kind: str = "t", *, anchor: str = "start", bold: bool = False
    ) -> None:
        color = {"t": DAY.ink, "q": DAY.soft}.get(kind) or DAY.inks[int(kind[1:])]
        made = self.add("text", kind, x=x, y=y, fill=color, text_anchor=anchor, font_weight="600" if bold else "400")
        made.text = words

    def line(
        self,
        points: Sequence[tuple[float, float]],
        kind: str,
        color: str,
        width: float = 1.0,
        parent: ET.Element | None = None,
        dash: Sequence[float] = (),
    ) -> None:
        listed = " ".join(f"{x:.2f},{y:.2f}" for x, y in points)
        made = self.add(
            "polyline",
            kind,
            parent,
            points=listed,
            fill="none",
            stroke=color,
            stroke_width=width,
            stroke_linejoin="round",
        )
        if dash:
            made.set("stroke-dasharray", " ".join(f"{2 * length:g}" for length in dash))

    def clip(self, x: float, y: float, wide: float, high: float) -> ET.Element:
        """A group of which only this part is seen. Its name is the drawing's own: several stand on one page."""
        self._clips += 1
        name = f"c{id(self):x}-{self._clips}"
        ET.SubElement(
            ET.SubElement(self.root, "clipPath", {"id": name}),
            "rect",
            {"x": f"{x:g}", "y": f"{y:g}", "width": f"{wide:g}", "height": f"{high:g}"},
        )
        return ET.SubElement(self.root, "g", {"clip-path": f"url(#{name})"})

    def svg(self) -> str:
        self.root.set("viewBox", f"0 0 {WIDTH:g} {math.ceil(self.height)}")
        self.root.set("width", f"{WIDTH:g}")
        self.root.set("height", f"{math.ceil(self.height)}")
        return ET.tostring(self.root, encoding="unicode")


def _attribute(value: object) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)


def _step(span: float, count: float) -> float:
    """A round step that cuts a span into at most so many parts."""
    rough = max(span / count, 1e-12)
    power = 10.0 ** math.floor(math.log10(rough))
    return next(power * factor for factor in (1, 2, 5, 10) if power * factor >= rough * 0.999)


def _multiples(step: float, low: float, high: float) -> Iterable[float]:
    return (number * step for number in range(math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9) + 1))


def _number(value: float) -> str:
    return f"{value:.6g}".replace("-", "−")


def stage_svg(drill: Drill, traces: Sequence[Trace]) -> str:
    """The course with every tune's path, its bodies every few frames, and its marks. `traces` are in the order of the
    tunes."""
    drawing = Drawing(f"The course of {drill.name} with every tune's path")
    _legend(drawing, [trace.tune.name for trace in traces])
    left, bottom, right, top = _extent(traces)
    wide = WIDTH - LEFT - 8
    scale = min(wide / (right - left), HIGHEST / (top - bottom))
    high = max(LOWEST, (top - bottom) * scale)
    middle = (left + right) / 2
    left, right = middle - wide / scale / 2, middle + wide / scale / 2
    above = drawing.height

    def at(x: float, y: float) -> tuple[float, float]:
        return LEFT + (x - left) * scale, above + high - (y - bottom) * scale

    step = _step(right - left, wide / 52)
    inside = drawing.clip(LEFT, above, wide, high)
    for x in _multiples(step, left, right):
        drawing.line([at(x, bottom), (at(x, bottom)[0], above)], "g", DAY.grid_fine, 1.0, inside)
        drawing.text(at(x, 0)[0], above + high + LINE, _number(x), "q", anchor="middle")
    for y in _multiples(step, bottom, bottom + high / scale):
        drawing.line([(LEFT, at(0, y)[1]), (LEFT + wide, at(0, y)[1])], "g", DAY.grid_fine, 1.0, inside)
        if above + 6 < at(0, y)[1] <= above + high:
            drawing.text(LEFT - 6, at(0, y)[1] + 4, _number(y), "q", anchor="end")
    _course(drawing, inside, drill, at, traces)
    for place in reversed(range(len(traces))):
        _path(drawing, inside, traces[place], place, at, scale)
    drawing.text(LEFT + wide, above + high + 2 * LINE, "x and y in u", "q", anchor="end")
    drawing.height = above + high + 2 * LINE + 6
    return drawing.svg()


def _extent(traces: Sequence[Trace]) -> tuple[float, float, float, float]:
    """Left, bottom, right and top of all that a body was at, with a little room."""
    lefts, bottoms, rights, tops = [], [], [], []
    for trace in traces:
        (low_x, high_x), (low_y, high_y), body = trace.span("x"), trace.span("y"), trace.tune.body
        down = 0.0 if trace.tune.view == "side" else body.height / 2
        lefts.append(low_x - body.width / 2)
        rights.append(high_x + body.width / 2)
        bottoms.append(low_y - down)
        tops.append(high_y - down + body.height)
    return min(lefts) - 0.5, min(bottoms) - 0.6, max(rights) + 0.5, max(tops) + 0.6


def _course(drawing: Drawing, inside: ET.Element, drill: Drill, at: At, traces: Sequence[Trace]) -> None:
    def rectangle(each: Rectangle, kind: str, **more: object) -> None:
        (x, y), (right, bottom) = at(each.left, each.top), at(each.right, each.bottom)
        drawing.add("rect", kind, inside, x=x, y=y, width=right - x, height=bottom - y, **more)

    for each in drill.course.climb:
        rectangle(each, "n", fill="none", stroke=DAY.earth_edge, stroke_dasharray="2 3")
    for each in drill.course.solids:
        rectangle(each, "e", fill=DAY.earth, stroke=DAY.earth_edge, stroke_width=1.0)
    for each in drill.course.oneway:
        rectangle(each, "e", fill=DAY.earth, fill_opacity=0.5)
        (x, y), (right, _) = at(each.left, each.top), at(each.right, each.top)
        drawing.line([(x, y), (right, y)], "n", DAY.earth_edge, 2.0, inside)

    for slope in drill.course.slopes:
        ends = [at(slope.x0, slope.y0), at(slope.x1, slope.y1)]
        steep = all(too_steep(trace.tune, slope) for trace in traces)
        drawing.line(ends, "n", DAY.earth_edge, 2.0, inside, BROKEN if steep else ())


def _path(drawing: Drawing, inside: ET.Element, trace: Trace, place: int, at: At, scale: float) -> None:
    body, kind, ink = trace.tune.body, f"s{style(place)}", DAY.inks[style(place)]
    lift = body.height / 2 if trace.tune.view == "side" else 0.0
    xs, ys = trace["x"].tolist(), trace["y"].tolist()
    for row in range(0, len(xs), PRINT_EVERY * (1 + len(xs) // 600)):
        x, y = at(xs[row] - body.width / 2, ys[row] + lift + body.height / 2)
        drawing.add("rect", f"{kind} w{style(place)}", inside, x=x, y=y, width=body.width * scale,
        height=body.height * scale, fill=ink, fill_opacity=0.05,
                    stroke=ink, stroke_opacity=0.35, stroke_width=0.7)  # fmt: skip
    points = [at(x, y + lift) for x, y in zip(xs, ys, strict=True)]
    drawing.line(points, kind, ink, 1.8, inside, DASHES[style(place)])
    for mark, shape in ((PRESS, "press"), (LAUNCH, "launch"), (APEX, "apex"), (LAND, "land")):
        for row in trace.rows_with(mark)[:40]:
            x, y = at(xs[row], ys[row])
            _mark(drawing, inside, shape, x, y, kind, ink)


def _mark(drawing: Drawing, parent: ET.Element | None, shape: str, x: float, y: float, kind: str, ink: str) -> None:
    look: dict[str, Any] = {"stroke": ink, "stroke_width": 1.3, "fill": DAY.paper}
    if shape == "press":
        drawing.add("circle", f"{kind} p", parent, cx=x, cy=y, r=3.4, **look)
    elif shape == "launch":
        drawing.add(
            "path",
            f"{kind} p",
            parent,
            d=f"M{x - 4:.1f},{y + 3:.1f} L{x + 4:.1f},{y + 3:.1f} L{x:.1f},{y - 4:.1f} Z",
            **look,
        )
    elif shape == "apex":
        drawing.add("path", kind, parent, d=f"M{x:.1f},{y - 5:.1f} V{y + 5:.1f}", **look)
    else:
        drawing.add("rect", f"{kind} p", parent, x=x - 3.2, y=y - 3.2, width=6.4, height=6.4, **look)


def _legend(drawing: Drawing, names: Sequence[str]) -> None:
    """Letter, line and name of every tune, in as many rows as they need."""
    x, y = LEFT, drawing.height + 12
    for place, name in enumerate(names):
        needed = 62 + 6.6 * len(name)
        if x > LEFT and x + needed > WIDTH:
            x, y = LEFT, y + LINE + 2
        drawing.text(x, y, letter(place), f"s{style(place)}", bold=True)
        drawing.line(
            [(x + 14, y - 4), (x + 46, y - 4)],
            f"s{style(place)}",
            DAY.inks[style(place)],
            1.8,
            dash=DASHES[style(place)],
        )
        drawing.text(x + 51, y, name)
        x += needed + 12
    drawing.height = y + 9


def curves_svg(drill: Drill, traces: Sequence[Trace]) -> str:
    """Hands, states and the usual curves over one time axis."""
    drawing = Drawing(f"What the hands do on {drill.name}, and every tune's curves")
    end = max(drill.take.seconds, *(float(trace["time"][-1]) for trace in traces))
    wide = WIDTH - LEFT - RIGHT

    def at(time: float) -> float:
        return LEFT + time / end * wide

    _legend(drawing, [trace.tune.name for trace in traces])
    _hands(drawing, drill, at)
    _states(drawing, traces, at)
    drawing.height += 8
    ticks = list(_multiples(_step(end, wide / 60), 0.0, end))
    for channel in PRESETS[FIRST_PRESET][drill.view]:
        if isinstance(channel, Channel):
            _strip(drawing, channel, traces, at, ticks)
    for time in ticks:
        drawing.text(at(time), drawing.height + 8, _number(time), "q", anchor="middle")
    drawing.text(LEFT - 8, drawing.height + 8, "time, s", "q", anchor="end")
    drawing.height += 16
    return drawing.svg()


def _hands(drawing: Drawing, drill: Drill, at: AtTime) -> None:
    take = drill.take
    for key in KEYS:
        presses = getattr(take.keys, key)
        if presses:
            y = drawing.height
            drawing.text(LEFT - 8, y + 11, key, "q", anchor="end")
            for press in presses:
                x, right = at(press.start / take.rate), at(min(press.end, take.length) / take.rate)
                drawing.add(
                    "rect", "h", x=x, y=y + 3, width=max(1.0, right - x), height=LANE - 6, rx=2, fill=DAY.accent
                )
            drawing.height += LANE
    for name in ("stick", "aim"):
        pushes = getattr(take, name)
        for axis, value in (("x", 1), ("y", 2)) if pushes else ():
            middle = drawing.height + LANE / 2
            drawing.text(LEFT - 8, middle + 4, f"{name} {axis}", "q", anchor="end")
            points = [(at(0.0), middle)]
            for push in pushes:
                x, y = at(push[0] / take.rate), middle - push[value] * (LANE / 2 - 2)
                points += [(x, points[-1][1]), (x, y)]
            points.append((at(take.seconds), points[-1][1]))
            drawing.line(points, "a", DAY.accent, 1.4)
            drawing.height += LANE


def _states(drawing: Drawing, traces: Sequence[Trace], at: AtTime) -> None:
    strengths = {"ground": 0.14, "rise": 0.45, "fall": 0.28, "climb": 0.55}
    for place, trace in enumerate(traces):
        y, kind, ink = drawing.height, f"s{style(place)}", DAY.inks[style(place)]
        drawing.text(LEFT - 8, y + 11, letter(place), kind, anchor="end", bold=True)
        for span in state_spans(trace):
            x, right = at(span.start), at(span.end)
            if right - x > 0.2:
                drawing.add(
                    "rect",
                    f"w{style(place)}",
                    x=x,
                    y=y + 1,
                    width=right - x - 0.6,
                    height=LANE - 2,
                    fill=ink,
                    fill_opacity=strengths[span.word],
                )
            if right - x > LEAST_WORD:
                drawing.text(x + 4, y + 11.5, span.word)
        drawing.height += LANE


def _strip(drawing: Drawing, channel: Channel, traces: Sequence[Trace], at: AtTime, ticks: Sequence[float]) -> None:
    above, high = drawing.height + TITLE, STRIP - TITLE - 10
    columns = [np.where(np.isfinite(trace[channel.column]), trace[channel.column], np.nan) for trace in traces]
    low = min(0.0, *(float(np.nanmin(column)) for column in columns))
    top = max(0.0, *(float(np.nanmax(column)) for column in columns))
    if top - low < 1e-9:
        low, top = low - 1, top + 1
    step = _step(top - low, 4.5)
    low, top = math.floor(low / step + 1e-9) * step, math.ceil(top / step - 1e-9) * step

    def up(value: float) -> float:
        return above + 6 + high * (top - value) / (top - low) * (1 - 8 / high)

    for time in ticks:
        drawing.line([(at(time), up(low)), (at(time), up(top))], "g", DAY.grid_fine)
    for value in _multiples(step, low, top):
        drawing.line(
            [(LEFT, up(value)), (WIDTH - RIGHT, up(value))], "g", DAY.grid if abs(value) < 1e-12 else DAY.grid_fine
        )
        drawing.text(LEFT - 8, up(value) + 4, _number(value), "q", anchor="end")
    unit = f", {channel.unit}" if channel.unit else ""
    for place in reversed(range(len(traces))):
        times: NDArray[np.float64] = traces[place]["time"]
        points = [
            (at(t), up(v)) for t, v in zip(times.tolist(), columns[place].tolist(), strict=True) if math.isfinite(v)
        ]
        drawing.line(points, f"s{style(place)}", DAY.inks[style(place)], 1.8, dash=DASHES[style(place)])
    drawing.text(LEFT, above, f"{channel.label}{unit}", bold=True)
    _ends(
        drawing,
        [up(float(column[np.isfinite(column)][-1])) if np.isfinite(column).any() else above for column in columns],
        above + 8,
        above + high,
    )
    drawing.height += STRIP


def _ends(drawing: Drawing, ends: Sequence[float], highest: float, lowest: float) -> None:
    """Each curve's letter where it ends, one under the other where they would meet."""
    order = sorted(range(len(ends)), key=lambda place: ends[place])
    taken: list[float] = []
    for place in order:
        y = max(ends[place] + 4, (taken[-1] + 12) if taken else highest)
        taken.append(y)
    over = max(0.0, taken[-1] - lowest - 4)
    for place, y in zip(order, taken, strict=True):
        drawing.text(WIDTH - RIGHT + 8, y - over, letter(place), f"s{style(place)}", bold=True)
