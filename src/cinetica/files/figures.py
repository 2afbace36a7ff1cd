"""Figures for documents, drawn by Matplotlib as SVG: the stage of a drill, and its input, states and curves."""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.courses import zone_name
from cinetica.model.study import Drill
from cinetica.model.take import KEYS
from cinetica.model.world_size import world_size
from cinetica.motion.records import APEX, LAND, LAUNCH, PRESS
from cinetica.motion.simulate import Trace
from cinetica.palette import DASHES, DAY, letter, style
from cinetica.reading.body import box_of, too_steep
from cinetica.reading.channels import BY_COLUMN, FIRST_PRESET, PRESETS, Channel, moving
from cinetica.reading.display_units import OURS, DisplayUnits, Scale
from cinetica.reading.spans import state_spans

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.axis import Axis
    from matplotlib.figure import Figure

Curve = tuple[NDArray[np.float64], NDArray[np.float64]]
# In points, 72 to the inch; on an A4 page a point is about a pixel.
WIDTH, TEXT, STRIP, LANE = 720.0, 10.0, 104.0, 17.0
LEFT, RIGHT, TOP, BOTTOM, TITLE = 56.0, 24.0, 26.0, 40.0, 22.0
PANEL = (164.0, 104.0)
HIGHEST, LOWEST = 220.0, 90.0
PRINT_EVERY = 6
LINE = 1.8
# A span that is shorter than this share of the figure has no room for its word.
LEAST_WORD = 0.06
STRENGTHS = {"ground": 0.14, "rise": 0.45, "fall": 0.28, "climb": 0.55, "wall": 0.36, "dash": 0.7}
MARKS = ((PRESS, "o"), (LAUNCH, "^"), (APEX, "|"), (LAND, "s"))
# Matplotlib's settings: text stays text, no point is left out, and the same figure is the same file.
SETTINGS: dict[Any, Any] = {
    "svg.fonttype": "none", "svg.hashsalt": "cinetica", "path.simplify": False,
    "font.family": "sans-serif", "font.size": TEXT, "axes.titlesize": TEXT,
    "axes.titleweight": "bold", "axes.titlelocation": "left", "text.color": DAY.ink, "axes.titlecolor": DAY.ink,
    "axes.labelcolor": DAY.soft, "xtick.color": DAY.soft, "ytick.color": DAY.soft, "axes.edgecolor": DAY.grid,
    "axes.facecolor": "none", "axes.axisbelow": True, "axes.grid": True, "grid.color": DAY.grid_fine,
    "grid.linewidth": 1.0, "xtick.major.size": 0, "ytick.major.size": 0, "axes.unicode_minus": True,
    "legend.frameon": False,
}  # fmt: skip


def stage_svg(drill: Drill, traces: Sequence[Trace], highest: float = HIGHEST, units: DisplayUnits = OURS) -> str:
    """The course with every tune's path, its body every few frames, and its marks, with numbers in these units.

    `traces` are in the order of the tunes; `highest` is how high the stage may be, in points.
    """
    left, bottom, right, top = _extent(traces)
    wide = WIDTH - LEFT - RIGHT
    scale = min(wide / (right - left), highest / (top - bottom))
    high = stage_height(traces, highest)
    with _figure(TOP + high + BOTTOM) as figure:
        axes = _add_axes(figure, TOP, high)
        axes.set_aspect("equal", adjustable="box")
        middle, half = (left + right) / 2, wide / scale / 2
        axes.set_xlim(middle - half, middle + half)
        axes.set_ylim(bottom, bottom + high / scale)
        axes.set_xlabel(f"x and y in {units.unit('u')}", loc="right")
        _number(axes.xaxis, units.column("x"))
        _number(axes.yaxis, units.column("y"))
        _draw_course(axes, drill, traces)
        for place in reversed(range(len(traces))):
            _draw_path(axes, traces[place], place)
        _draw_legend(figure, traces)
        return _svg(figure, f"The course of {drill.name} with every tune's path")


def stage_height(traces: Sequence[Trace], highest: float = HIGHEST) -> float:
    """The height of the stage without what is around it, in points."""
    left, bottom, right, top = _extent(traces)
    return max(LOWEST, min((WIDTH - LEFT - RIGHT) * (top - bottom) / (right - left), highest))


def channels_of(drill: Drill, traces: Sequence[Trace], columns: Sequence[str] = ()) -> tuple[list[Channel], str]:
    """The channels to draw, those of these columns or the usual ones, and a note on those that are left out.

    A channel that stays 0 in every trace is left out, unless all do.
    """
    usual = [channel for channel in PRESETS[FIRST_PRESET][drill.view] if isinstance(channel, Channel)]
    channels = [BY_COLUMN[column] for column in columns] or usual
    moves = moving([each.column for each in channels], traces)
    still = [each for each in channels if each.column not in moves]
    if not still or not moves:
        return channels, ""
    names = " and ".join(each.label for each in still)
    return [each for each in channels if each not in still], f"{names} stay{'s' if len(still) == 1 else ''} 0."


def curves_svg(
    drill: Drill,
    traces: Sequence[Trace],
    columns: Sequence[str] = (),
    strip: float = STRIP,
    units: DisplayUnits = OURS,
) -> str:
    """Input, states and curves over one time axis: what `channels_of` gives for these columns.

    `strip` is the height of each curve's strip, in points.
    """
    channels, _ = channels_of(drill, traces, columns)
    hands = lanes_of(drill)
    lanes_high, states_high = LANE * max(1, len(hands)), LANE * len(traces)
    above = TOP + lanes_high + 4 + states_high
    with _figure(above + (TITLE + strip) * len(channels) + BOTTOM) as figure:
        lanes = _add_axes(figure, TOP, lanes_high)
        states = _add_axes(figure, TOP + lanes_high + 4, states_high, lanes)
        strips = [
            _add_axes(figure, above + number * (TITLE + strip) + TITLE, strip, lanes) for number in range(len(channels))
        ]
        end = max(drill.take.seconds, *(float(trace["time"][-1]) for trace in traces))
        _draw_hands(lanes, drill, hands)
        _draw_states(states, traces, end)
        for axes, channel in zip(strips, channels, strict=True):
            _draw_strip(axes, units.channel(channel), traces, strip)
            _number(axes.yaxis, units.column(channel.column))
        for axes in (lanes, states, *strips[:-1]):
            axes.tick_params(labelbottom=False)
        strips[-1].set_xlim(0, end)
        strips[-1].set_xlabel(f"time, {units.unit('s')}", loc="left")
        _number(strips[-1].xaxis, units.scale("s"))
        _draw_legend(figure, traces)
        return _svg(figure, f"What the hands do on {drill.name}, and every tune's curves")


def panels_svg(title: str, curves: Mapping[str, Curve]) -> str:
    """Curves side by side at one scale, each under its name, without numbers: what a choice changes."""
    with _figure(PANEL[1], PANEL[0] * len(curves)) as figure:
        panels = figure.subplots(1, len(curves), sharex=True, sharey=True, squeeze=False)[0]
        figure.subplots_adjust(left=0.01, right=0.99, bottom=0.04, top=1 - TITLE / PANEL[1], wspace=0.06)
        for axes, (name, (x, y)) in zip(panels, curves.items(), strict=True):
            axes.set(title=name, xticks=[], yticks=[], facecolor=DAY.paper)
            axes.plot(x, y, **_pen(0))
        return _svg(figure, title)


@contextmanager
def _figure(high: float, wide: float = WIDTH) -> Iterator[Figure]:
    """A figure with our settings. Matplotlib is loaded when the first one is drawn."""
    import matplotlib as mpl
    from matplotlib.figure import Figure

    with mpl.rc_context(SETTINGS):
        yield Figure(figsize=(wide / 72, high / 72), dpi=72, facecolor="none")


def _add_axes(figure: Figure, top: float, high: float, shared: Axes | None = None) -> Axes:
    """Axes at a distance from the top edge, in points, of a given height; `shared` gives the time axis."""
    whole = figure.get_figheight() * 72
    rect = (LEFT / WIDTH, 1 - (top + high) / whole, 1 - (LEFT + RIGHT) / WIDTH, high / whole)
    return figure.add_axes(rect, sharex=shared)


def _svg(figure: Figure, title: str) -> str:
    """The figure as an element of a page."""
    text = io.StringIO()
    figure.savefig(text, format="svg", metadata={"Date": None, "Creator": None, "Title": title})
    content = text.getvalue()
    # Without the XML declaration and the document type, which only a separate file has.
    return content[content.index("<svg") :]


def _number(axis: Axis, scale: Scale) -> None:
    """Number an axis in the units that are shown; what is drawn stays where it is."""
    if scale.factor == 1.0 and scale.zero == 0.0:
        return
    from matplotlib.ticker import AutoLocator

    ends = axis.get_view_interval()
    low, high = scale.span(*ends)
    numbers = [number for number in AutoLocator().tick_values(low, high) if low <= number <= high]
    labels = [f"{scale.wrapped(number):g}".replace("-", "−") for number in numbers]
    axis.set_ticks([scale.kept(number) for number in numbers], labels)
    axis.set_view_interval(*ends, ignore=True)


def _pen(place: int, width: float = LINE) -> dict[str, Any]:
    """Colour, dashes and width of a tune's line; Matplotlib measures dashes in line widths."""
    dashes = DASHES[style(place)]
    return {
        "color": DAY.inks[style(place)], "linewidth": width, "dash_capstyle": "butt",
        "linestyle": (0, [float(length) for length in dashes]) if dashes else "-",
    }  # fmt: skip


def _draw_legend(figure: Figure, traces: Sequence[Trace]) -> None:
    """Draw the letter, line and name of every tune above the figure."""
    from matplotlib.lines import Line2D

    lines = [Line2D([], [], **_pen(place)) for place in range(len(traces))]
    names = [f"{letter(place)}  {trace.tune.name}" for place, trace in enumerate(traces)]
    figure.legend(
        lines, names, loc="upper left", ncols=max(1, min(4, len(names))), handlelength=3.2, borderpad=0,
        bbox_to_anchor=(LEFT / WIDTH, 1.0), borderaxespad=0.2,
    )  # fmt: skip


def _extent(traces: Sequence[Trace]) -> tuple[float, float, float, float]:
    """Left, bottom, right and top of everything that the bodies reach, with a margin."""
    boxes = []
    for trace in traces:
        (low_x, high_x), (low_y, high_y) = trace.span("x"), trace.span("y")
        boxes += [box_of(trace.tune, low_x, low_y), box_of(trace.tune, high_x, high_y)]
    left, bottom, right, top = zip(*boxes, strict=True)
    aside, over = (margin * world_size(traces[0].tune) for margin in (0.5, 0.6))
    return min(left) - aside, min(bottom) - over, max(right) + aside, max(top) + over


def _draw_course(axes: Axes, drill: Drill, traces: Sequence[Trace]) -> None:
    from matplotlib.patches import Rectangle

    course, edge = drill.course, DAY.earth_edge
    for zone in course.zones:
        left, bottom, right, top = zone.box
        area = Rectangle((left, bottom), right - left, top - bottom, facecolor=DAY.accent, edgecolor="none", alpha=0.12)
        axes.add_patch(area)
        axes.text(left, top, f" {zone_name(zone)}", fontsize=7, va="top", color=DAY.soft, clip_on=True)
    for kind, look in (
        (course.climb, {"facecolor": "none", "edgecolor": edge, "linestyle": (0, (2, 3))}),
        (course.solids, {"facecolor": DAY.earth, "edgecolor": edge}),
        (course.oneway, {"facecolor": DAY.earth, "edgecolor": "none", "alpha": 0.5}),
    ):
        for each in kind:
            size = (each.right - each.left, each.top - each.bottom)
            axes.add_patch(Rectangle((each.left, each.bottom), *size, **look))
    for plank in course.oneway:
        axes.plot([plank.left, plank.right], [plank.top, plank.top], color=edge, linewidth=2.0)
    for slope in course.slopes:
        steep = all(too_steep(trace.tune, slope) for trace in traces)
        how = (0, (3, 2)) if steep else "-"
        axes.plot([slope.x0, slope.x1], [slope.y0, slope.y1], color=edge, linewidth=2.0, linestyle=how)


def _draw_path(axes: Axes, trace: Trace, place: int) -> None:
    from matplotlib.collections import PatchCollection
    from matplotlib.patches import Rectangle

    ink, tune = DAY.inks[style(place)], trace.tune
    lift = tune.body.height / 2 if tune.view == "side" else 0.0
    x, y = trace["x"], trace["y"]
    every = PRINT_EVERY * (1 + len(x) // 600)
    boxes = (box_of(tune, float(at_x), float(at_y)) for at_x, at_y in zip(x[::every], y[::every], strict=True))
    prints = [Rectangle((left, bottom), right - left, top - bottom) for left, bottom, right, top in boxes]
    axes.add_collection(PatchCollection(prints, facecolor=(ink, 0.05), edgecolor=(ink, 0.35), linewidth=0.7))
    axes.plot(x, y + lift, **_pen(place))
    axes.annotate(
        letter(place), (float(x[-1]), float(y[-1]) + lift), (6, 0), textcoords="offset points", color=ink,
        fontweight="bold", va="center",
    )  # fmt: skip
    for mark, shape in MARKS:
        rows = trace.rows_with(mark)[:40]
        if len(rows):
            look: dict[str, Any] = {"markerfacecolor": DAY.paper, "markeredgecolor": ink, "markeredgewidth": 1.3}
            axes.plot(x[rows], y[rows], linestyle="none", marker=shape, markersize=6.5, **look)


def lanes_of(drill: Drill) -> list[str]:
    """The keys and the stick axes that the take uses."""
    take = drill.take
    keys = [key for key in KEYS if getattr(take.keys, key)]
    return keys + [f"{stick} {axis}" for stick in ("stick", "aim") if getattr(take, stick) for axis in "xy"]


def _draw_hands(axes: Axes, drill: Drill, lanes: Sequence[str]) -> None:
    take = drill.take
    for number, name in enumerate(lanes):
        if name in KEYS:
            spans = [
                (press.start / take.rate, (min(press.end, take.length) - press.start) / take.rate)
                for press in getattr(take.keys, name)
            ]
            axes.broken_barh(spans, (number - 0.3, 0.6), facecolors=DAY.accent)
        else:
            stick, axis = name.split()
            pushes = sorted(getattr(take, stick), key=lambda push: push.frame)
            times = [0.0, *(push.frame / take.rate for push in pushes), take.seconds]
            values = [0.0, *(getattr(push, axis) for push in pushes)]
            heights = [number - 0.4 * value for value in (*values, values[-1])]
            axes.step(times, heights, where="post", color=DAY.accent, linewidth=1.4)
    _name_lanes(axes, lanes)


def _name_lanes(axes: Axes, names: Sequence[str]) -> None:
    """Label the lanes, from the top down."""
    axes.set_yticks(range(len(names)), list(names))
    axes.set_ylim(max(1, len(names)) - 0.5, -0.5)
    axes.grid(False)
    axes.spines[:].set_visible(False)


def _draw_states(axes: Axes, traces: Sequence[Trace], end: float) -> None:
    for place, trace in enumerate(traces):
        ink = DAY.inks[style(place)]
        for span in state_spans(trace):
            long = span.end - span.start
            axes.broken_barh([(span.start, long)], (place - 0.42, 0.84), facecolors=(ink, STRENGTHS[span.word]))
            if long > LEAST_WORD * end:
                axes.text(span.start + 0.004 * end, place, span.word, va="center", fontsize=TEXT - 1, clip_on=True)
    _name_lanes(axes, [letter(place) for place in range(len(traces))])
    for place, label in enumerate(axes.get_yticklabels()):
        label.set(color=DAY.inks[style(place)], fontweight="bold")


def _draw_strip(axes: Axes, channel: Channel, traces: Sequence[Trace], height: float) -> None:
    unit = f", {channel.unit}" if channel.unit else ""
    axes.set_title(f"{channel.label}{unit}", y=1.0)
    axes.axhline(0.0, color=DAY.grid, linewidth=1.0)
    axes.spines[:].set_visible(False)
    ends = []
    for place in reversed(range(len(traces))):
        values = np.where(np.isfinite(traces[place][channel.column]), traces[place][channel.column], np.nan)
        axes.plot(traces[place]["time"], values, **_pen(place))
        there = values[np.isfinite(values)]
        ends.append((float(there[-1]) if len(there) else 0.0, place))
    low, high = axes.get_ylim()
    # Each curve's letter at its end, moved up where it would overlap another.
    least, at = (high - low) * 1.1 * TEXT / height, -np.inf
    for value, place in sorted(ends):
        at = max(value, at + least)
        axes.annotate(
            letter(place), (1.0, at), (6, 0), xycoords=("axes fraction", "data"), textcoords="offset points",
            color=DAY.inks[style(place)], fontweight="bold", va="center", annotation_clip=False,
        )  # fmt: skip
