"""How high the figures of a drill may be for all that is said of it to fit on one page of the printed report.

Lengths are in points, 72 to the inch. They follow the print rules of `report.html.j2`.
"""

from __future__ import annotations

import math

from cinetica.files.figures import BOTTOM, LANE, LOWEST, STRIP, TITLE, TOP, WIDTH

# Width and height of the paper, without the margins of `@page`.
MM = 72 / 25.4
ROOM = {"A4": (178 * MM, 269 * MM), "Letter": (183.9 * MM, 251.4 * MM)}
LINE, LETTERS, ROW = 14.5, 105, 15.2
HEADING, PARAGRAPH, FIGURE, TABLE = 31.0, 6.0, 9.0, 14.0
LEAST_STRIP = 48.0


def heights(
    paper: str, words: tuple[str, ...], stage: float, lanes: int, strips: int, tables: tuple[int, ...]
) -> tuple[float, float]:
    """The heights of the stage and of each strip of a drill's curves, in the figures' own points.

    `words` are the paragraphs, `stage` the height that the stage would have, `lanes` the number of lanes of input and
    states, `tables` the rows of each table below the figures, heads included. Strips give way first.
    """
    wide, high = ROOM[paper]
    scale = wide / WIDTH
    text = HEADING + sum(PARAGRAPH + LINE * math.ceil(len(each) / LETTERS) for each in words)
    left = (high - text - 2 * FIGURE - sum(TABLE + ROW * rows for rows in tables)) / scale
    left -= 2 * (TOP + BOTTOM) + LANE * lanes + 4 + TITLE * strips
    strip = min(STRIP, max(LEAST_STRIP, (left - stage) / strips))
    return min(stage, max(LOWEST, left - strip * strips)), strip
