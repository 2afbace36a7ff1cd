"""Make src/cinetica/data/signs.ttf, with the few signs of the interface that some fonts lack."""

from __future__ import annotations

import math
from pathlib import Path

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

TARGET = Path(__file__).parents[1] / "src" / "cinetica" / "data" / "signs.ttf"
Point = tuple[float, float]


def ring(x: float, y: float, radius: float, *, inner: bool) -> list[Point]:
    turns = [2 * math.pi * step / 24 * (1 if inner else -1) for step in range(24)]
    return [(x + radius * math.cos(turn), y + radius * math.sin(turn)) for turn in turns]


# Advance and outlines by character; 1000 units are the size of the font.
SIGNS: dict[str, tuple[int, list[list[Point]]]] = {
    " ": (280, []),
    "−": (600, [[(70, 325), (70, 395), (530, 395), (530, 325)]]),
    "→": (
        900,
        [[(70, 325), (70, 395), (640, 395), (560, 500), (640, 500), (830, 360), (640, 220), (560, 220), (640, 325)]],
    ),
    "√": (
        640,
        [[(40, 380), (150, 430), (280, 150), (520, 800), (600, 800), (310, -20), (250, -20), (110, 320), (60, 300)]],
    ),
    "∞": (
        940,
        [
            ring(260, 360, 200, inner=False),
            ring(260, 360, 130, inner=True),
            ring(640, 360, 200, inner=False),
            ring(640, 360, 130, inner=True),
        ],
    ),
}


def glyph(outlines: list[list[Point]]) -> object:
    pen = TTGlyphPen(None)
    for outline in outlines:
        pen.moveTo(outline[0])
        for point in outline[1:]:
            pen.lineTo(point)
        pen.closePath()
    return pen.glyph()


def main() -> None:
    names = {letter: f"u{ord(letter):04X}" for letter in SIGNS}
    font = FontBuilder(1000, isTTF=True)
    font.setupGlyphOrder([".notdef", *names.values()])
    font.setupCharacterMap({ord(letter): name for letter, name in names.items()})
    font.setupGlyf(
        {".notdef": glyph([]), **{names[letter]: glyph(outlines) for letter, (_, outlines) in SIGNS.items()}}
    )
    font.setupHorizontalMetrics(
        {".notdef": (500, 0), **{names[letter]: (advance, 0) for letter, (advance, _) in SIGNS.items()}}
    )
    font.setupHorizontalHeader(ascent=900, descent=-200)
    font.setupNameTable({"familyName": "Cinetica Signs", "styleName": "Regular"})
    font.setupOS2(sTypoAscender=900, sTypoDescender=-200, usWinAscent=900, usWinDescent=200)
    font.setupPost()
    font.font["head"].created = font.font["head"].modified = 0
    font.save(TARGET)


if __name__ == "__main__":
    main()
