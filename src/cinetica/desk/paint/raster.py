"""Drawing into an image's memory, compiled like the kernel: curves, boxes and stamps.

Qt strokes a wide antialiased path of 160 points in half a millisecond; this does in about thirty. A line is
drawn by the distance of each pixel's middle from it: `coverage = half width + 1/2 - distance`, between 0 and 1. What
one curve covers is collected first and laid on once, so that it is as dark where it meets itself as everywhere.

Python asks for it by lists of commands (`draw`): a call of each figure would cost as much as the figure.

All lengths are pixels of the image; pixels are 32 bits, 0xffRRGGBB. Nothing here knows Qt or allocates.
"""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np

from cinetica.machine.code import COUNT, POINTER, MachineCode

# Beyond this no coordinate is looked at: far outside of any image, and still whole as a number of 32 bits.
FAR = 1e7
# A piece that rises more than so many times its width is steep.
STEEP = 0.7
# One that rises less than that is flat.
FLAT = 0.5
# Points that lie so near to a straight line are passed by: of 255 shades of a pixel it is not half of one.
STRAIGHT = 0.0015


def lines(
    pixels, stride, left, top, right, bottom, cover, low, high, x, y, first_point, count, x0, across, y0, down,
    color, width, dashes, dash_count, anchored,
):  # fmt: skip
    """One polyline of `count` points, within the part of the image that is given; broken where a point is not finite.

    A point is at `x0 + across * x`, `y0 + down * y`. `cover`: a byte for each pixel of the image, by columns, all 0,
    left so; `low`, `high`: an integer for each column. `dashes`: lengths on and off, in turn; with `anchored` the
    pattern goes by the way across, unless a piece is steep, so that it stays in its place while the curve changes up
    and down; else it goes by the length.
    """
    for column in range(left, right):
        low[column] = bottom
        high[column] = top
    period = 0.0
    for number in range(dash_count):
        period += dashes[number]
    reach = width / 2 + 0.5
    full = 255.0 * min(1.0, width)
    way = 0.0
    i, end = first_point, first_point + count - 1
    while i < end:
        ax, ay, bx, by = x0 + across * x[i], y0 + down * y[i], x0 + across * x[i + 1], y0 + down * y[i + 1]
        i += 1
        if not (math.isfinite(ay) and math.isfinite(by) and math.isfinite(ax) and math.isfinite(bx)):
            # What comes behind a break is a line of its own, whose dashes begin with it.
            way = 0.0
            continue
        ax, bx = min(max(ax, -FAR), FAR), min(max(bx, -FAR), FAR)
        ay, by = min(max(ay, -FAR), FAR), min(max(by, -FAR), FAR)
        i, bx, by = straight_on(x, y, i, end, x0, across, y0, down, ax, ay, bx, by)
        dx, dy = bx - ax, by - ay
        length = math.sqrt(dx * dx + dy * dy)
        # Only what goes across is anchored: along a steep stretch the pattern goes on, and its dashes stay whole.
        stands = anchored and abs(dy) < STEEP * dx
        begins = ax - x0 if stands else way
        way = begins + (dx if stands else length)
        if (
            max(ax, bx) + reach < left
            or min(ax, bx) - reach > right
            or max(ay, by) + reach < top
            or min(ay, by) - reach > bottom
        ):
            continue
        begins -= math.floor(begins / period) * period if period > 0 else 0.0
        piece(
            left, top, right, bottom, cover, low, high,
            ax, ay, bx, by, length, reach, full, begins, stands, dashes, dash_count, period,
        )  # fmt: skip
    pour(pixels, stride, left, right, bottom, cover, low, high, color)


def straight_on(x, y, i, end, x0, across, y0, down, ax, ay, bx, by):
    """Where a piece from a to b, which is point `i`, comes to if all that goes straight on is of it: the number of its
    last point, and its place."""
    if bx <= ax:
        return i, bx, by
    # The slopes from its beginning that pass all of its points.
    share = 1.0 / (bx - ax)
    least, most = (by - ay - STRAIGHT) * share, (by - ay + STRAIGHT) * share
    while i < end:
        cx, cy = x0 + across * x[i + 1], y0 + down * y[i + 1]
        if not (bx < cx < FAR and -FAR < cy < FAR):
            break
        share = 1.0 / (cx - ax)
        rise = (cy - ay) * share
        if not least <= rise <= most:
            break
        least, most = max(least, rise - STRAIGHT * share), min(most, rise + STRAIGHT * share)
        i, bx, by = i + 1, cx, cy
    return i, bx, by


def pour(pixels, stride, left, right, bottom, cover, low, high, color):
    """Lay on what a line has covered, once, and leave the cover as it was: all 0."""
    for column in range(left, right):
        for row in range(low[column], high[column]):
            amount = np.int64(cover[column * bottom + row])
            if amount:
                place = row * stride + column
                pixels[place] = blend(pixels[place], color, amount)
                cover[column * bottom + row] = 0


def piece(
    left, top, right, bottom, cover, low, high, ax, ay, bx, by, length, reach, full, begins, stands, dashes,
    dash_count, period,
):  # fmt: skip
    """What a straight piece of a line covers. `cover` goes by columns, `bottom` bytes each. With `stands` its dashes
    are as long across as they are given, whichever way it goes up or down."""
    ux, uy = ((bx - ax) / length, (by - ay) / length) if length > 0 else (1.0, 0.0)
    # The columns whose middle it crosses; a steep piece also those beside it.
    aside = reach * max(0.0, 2 * abs(uy) - 1) + 1e-6
    first = max(left, math.ceil(min(ax, bx) - aside - 0.5))
    last = min(right - 1, math.floor(max(ax, bx) + aside - 0.5))
    # How far up and down of the line's middle a column can be covered.
    steep = abs(ux) < 1e-3
    tall = FAR if steep else reach / abs(ux)
    slope = 0.0 if steep else uy / ux
    least, most = min(ay, by) - reach, max(ay, by) + reach
    # Where a piece is flat, a dash ends in all rows of a column at once.
    flat = period > 0 and (stands or abs(uy) < FLAT * abs(ux))
    pace, end = (1.0, bx - ax) if stands else (1.0 / ux if flat else 0.0, length)
    for column in range(first, last + 1):
        px = column + 0.5 - ax
        middle = ay + px * slope
        upper = max(top, math.ceil(max(least, middle - tall) - 0.5))
        lower = min(bottom - 1, math.floor(min(most, middle + tall) - 0.5))
        if upper > lower:
            continue
        part = full
        if flat:
            part *= dashed(begins + min(max(px * pace, 0.0), end), dashes, dash_count, period)
            if part <= 0.0:
                continue
        low[column] = min(low[column], upper)
        high[column] = max(high[column], lower + 1)
        # By columns, so that neighbours in the loop are neighbours in memory.
        foot = column * bottom
        py = upper + 0.5 - ay
        along, beside = px * ux + py * uy, px * uy - py * ux
        for row in range(upper, lower + 1):
            beyond = max(-along, along - length)
            # Along the piece the distance is that from its line; a root is only for the ends.
            away = math.sqrt(beside * beside + beyond * beyond) if beyond > 0.0 else abs(beside)
            if away < reach:
                amount = min(1.0, reach - away) * part
                if period > 0 and not flat:
                    amount *= dashed(begins + min(max(along, 0.0), length), dashes, dash_count, period)
                cover[foot + row] = max(cover[foot + row], np.uint8(amount + 0.5))
            along += uy
            beside -= ux


def dashed(way, dashes, count, period):
    """How much of the line is there at a length of its way, 0 to 1; ends are soft by a pixel."""
    at = way - math.floor(way / period) * period
    start = 0.0
    amount = 0.0
    for number in range(0, count, 2):
        end = start + dashes[number]
        amount = max(amount, min(1.0, at - start + 0.5, end - at + 0.5))
        # The first dash of the next period reaches back by half a pixel.
        amount = max(amount, min(1.0, at - period - start + 0.5, end + period - at + 0.5))
        start = end + dashes[number + 1]
    return max(0.0, amount)


def blend(under, color, amount):
    """`amount` of 255 of a colour on a pixel: red and blue in one go, as they lie 8 bits apart."""
    rest = 255 - amount
    # (x + 128 + (x + 128) / 256) / 256 is x / 255, rounded.
    both = (under & 0xFF00FF) * rest + (color & 0xFF00FF) * amount + 0x800080
    green = ((under >> 8) & 255) * rest + ((color >> 8) & 255) * amount + 0x80
    both = ((both + ((both >> 8) & 0xFF00FF)) >> 8) & 0xFF00FF
    return 0xFF000000 | both | (((green + (green >> 8)) >> 8) << 8)


def boxes(
    pixels, stride, left, top, right, bottom, edges, count, x0, across, y0, down, rim, rim_alpha, thick, fill, alpha,
    hatch,
):  # fmt: skip
    """Rectangles (rows of left, bottom, right, top, placed as the points of a line are) on whole pixels: washed, their
    rim inside. With `hatch` only lines of the wash so many pixels apart, which rise to the right, or with a negative
    one fall."""
    for i in range(count):
        box(
            pixels, stride, left, top, right, bottom,
            x0 + across * edges[4 * i], y0 + down * edges[4 * i + 1], x0 + across * edges[4 * i + 2],
            y0 + down * edges[4 * i + 3], rim, rim_alpha, thick, fill, alpha, hatch,
        )  # fmt: skip


def prints(
    pixels, stride, left, top, right, bottom, x, y, step, count, west, south, east, north, x0, across, y0, down,
    rim, rim_alpha, thick, fill, alpha,
):  # fmt: skip
    """A rectangle, which reaches so far to each side, around every so many of the points."""
    for i in range(0, count * step, step):
        box(
            pixels, stride, left, top, right, bottom, x0 + across * (x[i] + west), y0 + down * (y[i] + south),
            x0 + across * (x[i] + east), y0 + down * (y[i] + north), rim, rim_alpha, thick, fill, alpha, 0,
        )  # fmt: skip


def box(
    pixels, stride, left, top, right, bottom, xa, ya, xb, yb, rim, rim_alpha, thick, fill, alpha, hatch
):  # fmt: skip
    """One rectangle, by two of its corners; see `boxes`."""
    # What is no number, or far away, has no whole number.
    if not (math.isfinite(xa) and math.isfinite(xb) and math.isfinite(ya) and math.isfinite(yb)):
        return
    least, most, lowest, highest = left - 99.0, right + 99.0, top - 99.0, bottom + 99.0
    first = math.floor(min(max(min(xa, xb), least), most) + 0.5)
    last = math.floor(min(max(max(xa, xb), least), most) + 0.5)
    over = math.floor(min(max(min(ya, yb), lowest), highest) + 0.5)
    under = math.floor(min(max(max(ya, yb), lowest), highest) + 0.5)
    if min(right, last) <= max(left, first):
        return
    for row in range(max(top, over), min(bottom, under)):
        begin, end, place = max(left, first), min(right, last), row * stride
        if rim_alpha:
            if row < over + thick or row >= under - thick:
                for column in range(begin, end):
                    pixels[place + column] = blend(pixels[place + column], rim, rim_alpha)
                continue
            inner, outer = min(max(begin, first + thick), end), max(min(end, last - thick), begin)
            for column in range(begin, inner):
                pixels[place + column] = blend(pixels[place + column], rim, rim_alpha)
            for column in range(max(inner, outer), end):
                pixels[place + column] = blend(pixels[place + column], rim, rim_alpha)
            begin, end = inner, outer
        if hatch:
            for column in range(begin, end):
                if (column + (row if hatch > 0 else -row)) % abs(hatch) < thick:
                    pixels[place + column] = blend(pixels[place + column], fill, alpha)
        elif alpha == 255:
            # What hides all under it need not look there.
            for column in range(begin, end):
                pixels[place + column] = 0xFF000000 | fill
        elif alpha:
            for column in range(begin, end):
                pixels[place + column] = blend(pixels[place + column], fill, alpha)


def stamps(
    pixels, stride, left, top, right, bottom, atlas, across_atlas, wide, high, x, y, count, x0, across, y0, down
):
    """A picture (premultiplied) laid around each of the points, on whole pixels."""
    for i in range(count):
        px, py = x0 + across * x[i], y0 + down * y[i]
        if not (left - 999.0 < px < right + 999.0 and top - 999.0 < py < bottom + 999.0):
            continue
        tx, ty = math.floor(px - wide / 2 + 0.5), math.floor(py - high / 2 + 0.5)
        for row in range(max(0, top - ty), min(high, bottom - ty)):
            for column in range(max(0, left - tx), min(wide, right - tx)):
                color = atlas[row * across_atlas + column]
                alpha = color >> 24
                if alpha:
                    place = (ty + row) * stride + tx + column
                    under, rest = pixels[place], 255 - alpha
                    red = ((color >> 16) & 255) + (((((under >> 16) & 255) * rest) * 257 + 32896) >> 16)
                    green = ((color >> 8) & 255) + (((((under >> 8) & 255) * rest) * 257 + 32896) >> 16)
                    blue = (color & 255) + ((((under & 255) * rest) * 257 + 32896) >> 16)
                    pixels[place] = 0xFF000000 | (min(red, 255) << 16) | (min(green, 255) << 8) | min(blue, 255)


def glyphs(
    pixels, stride, left, top, right, bottom, ink, across_ink, high, starts, widths, text, count, end, over, color
):
    """A line of text that ends at `end`, its top at `over`: each character is a part of the picture `ink`, which holds
    how much is inked."""
    tx = end
    for i in range(count):
        tx -= widths[int(text[i])]
    for i in range(count):
        sx, wide = starts[int(text[i])], widths[int(text[i])]
        for row in range(max(0, top - over), min(high, bottom - over)):
            for column in range(max(0, left - tx), min(wide, right - tx)):
                amount = np.int64(ink[row * across_ink + sx + column])
                if amount:
                    place = (over + row) * stride + tx + column
                    pixels[place] = blend(pixels[place], color, amount)
        tx += wide


def copy(pixels, stride, under, other):
    """The whole of another image of the same size."""
    for place in range(stride * under):
        pixels[place] = other[place]


# What there is to draw

# The kinds of commands, and how many numbers each has; behind them the points, corners or signs that it brings along.
CLIP, LINE, BOXES, STAMPS, GLYPHS, PRINTS, COPY, TINTS = range(8)
SIZES = (5, 14, 13, 12, 10, 18, 2, 6)


def draw(pixels, stride, cover, low, high, right, bottom, todo, length):
    """Carry out all commands of a list, in its order: `length` numbers at the address `todo`, all of them f8 (an
    address has less than 53 bits). The image is `right` × `bottom` pixels.

    CLIP: left, top, right, bottom; what follows is drawn within.
    COPY: address of the pixels of another image of the same size.
    LINE: addresses of x and y, first point, count, the four of the mapping, color, width, address and count of dashes,
    anchored.
    BOXES: address of the edges, count, mapping, rim, its alpha, thickness, fill, its alpha, hatch.
    TINTS: count, mapping; then for each its edges, its fill and its alpha.
    STAMPS: address of the picture, its row, width, height, addresses of x and y, count, mapping.
    PRINTS: addresses of x and y, step, count, the four sides of the rectangle, mapping, rim, its alpha, thickness,
    fill, its alpha.
    GLYPHS: addresses of ink, its row, height, addresses of starts and widths, end, over, color, count; then the signs.
    An address of 0: what it should lead to comes with the command.
    """
    a = numbers_at(todo)
    left, top, end, under = 0, 0, right, bottom
    at = 0
    while at < length:
        kind = int(a[at])
        if kind == CLIP:
            left, top, end, under = int(a[at + 1]), int(a[at + 2]), int(a[at + 3]), int(a[at + 4])
            at += SIZES[CLIP]
        elif kind == COPY:
            copy(pixels, stride, bottom, pixels_at(int(a[at + 1])))
            at += SIZES[COPY]
        elif kind == LINE:
            at = draw_line(pixels, stride, left, top, end, under, cover, low, high, a, at, todo)
        elif kind == BOXES:
            at = draw_boxes(pixels, stride, left, top, end, under, a, at, todo)
        elif kind == TINTS:
            at = draw_tints(pixels, stride, left, top, end, under, a, at)
        elif kind == STAMPS:
            at = draw_stamps(pixels, stride, left, top, end, under, a, at, todo)
        elif kind == PRINTS:
            at = draw_prints(pixels, stride, left, top, end, under, a, at)
        else:
            at = draw_glyphs(pixels, stride, left, top, end, under, a, at, todo)


def draw_line(pixels, stride, left, top, right, bottom, cover, low, high, a, at, todo):
    """Each of these carries out the command at `at`, and gives where the next one is."""
    x, y, count, behind = int(a[at + 1]), int(a[at + 2]), int(a[at + 4]), at + SIZES[LINE]
    if x == 0:
        x, y, behind = todo + 8 * behind, todo + 8 * (behind + count), behind + 2 * count
    lines(
        pixels, stride, left, top, right, bottom, cover, low, high, numbers_at(x), numbers_at(y), int(a[at + 3]), count,
        a[at + 5], a[at + 6], a[at + 7], a[at + 8], int(a[at + 9]), a[at + 10], numbers_at(int(a[at + 11])),
        int(a[at + 12]), a[at + 13] != 0,
    )  # fmt: skip
    return behind


def draw_boxes(pixels, stride, left, top, right, bottom, a, at, todo):
    edges, count, behind = int(a[at + 1]), int(a[at + 2]), at + SIZES[BOXES]
    if edges == 0:
        edges, behind = todo + 8 * behind, behind + 4 * count
    boxes(
        pixels, stride, left, top, right, bottom, numbers_at(edges), count, a[at + 3], a[at + 4], a[at + 5], a[at + 6],
        int(a[at + 7]), int(a[at + 8]), int(a[at + 9]), int(a[at + 10]), int(a[at + 11]), int(a[at + 12]),
    )  # fmt: skip
    return behind


def draw_tints(pixels, stride, left, top, right, bottom, a, at):
    x0, across, y0, down, first = a[at + 2], a[at + 3], a[at + 4], a[at + 5], at + SIZES[TINTS]
    behind = first + 6 * int(a[at + 1])
    for i in range(first, behind, 6):
        box(
            pixels, stride, left, top, right, bottom, x0 + across * a[i], y0 + down * a[i + 1], x0 + across * a[i + 2],
            y0 + down * a[i + 3], 0, 0, 0, int(a[i + 4]), int(a[i + 5]), 0,
        )  # fmt: skip
    return behind


def draw_prints(pixels, stride, left, top, right, bottom, a, at):
    prints(
        pixels, stride, left, top, right, bottom, numbers_at(int(a[at + 1])), numbers_at(int(a[at + 2])),
        int(a[at + 3]), int(a[at + 4]), a[at + 5], a[at + 6], a[at + 7], a[at + 8],
        a[at + 9], a[at + 10], a[at + 11], a[at + 12],
        int(a[at + 13]), int(a[at + 14]), int(a[at + 15]), int(a[at + 16]), int(a[at + 17]),
    )  # fmt: skip
    return at + SIZES[PRINTS]


def draw_stamps(pixels, stride, left, top, right, bottom, a, at, todo):
    x, y, count, behind = int(a[at + 5]), int(a[at + 6]), int(a[at + 7]), at + SIZES[STAMPS]
    if x == 0:
        x, y, behind = todo + 8 * behind, todo + 8 * (behind + count), behind + 2 * count
    stamps(
        pixels, stride, left, top, right, bottom, pixels_at(int(a[at + 1])), int(a[at + 2]), int(a[at + 3]),
        int(a[at + 4]), numbers_at(x), numbers_at(y), count, a[at + 8], a[at + 9], a[at + 10], a[at + 11],
    )  # fmt: skip
    return behind


def draw_glyphs(pixels, stride, left, top, right, bottom, a, at, todo):
    count, behind = int(a[at + 9]), at + SIZES[GLYPHS]
    glyphs(
        pixels, stride, left, top, right, bottom, bytes_at(int(a[at + 1])), int(a[at + 2]), int(a[at + 3]),
        integers_at(int(a[at + 4])), integers_at(int(a[at + 5])), numbers_at(todo + 8 * behind), count,
        int(a[at + 6]), int(a[at + 7]), int(a[at + 8]),
    )  # fmt: skip
    return behind + count


def numbers_at(place):
    """What lies at an address, as f8; only for the compiler, as are those below."""
    raise NotImplementedError


def pixels_at(place):
    raise NotImplementedError


def bytes_at(place):
    raise NotImplementedError


def integers_at(place):
    raise NotImplementedError


# The machine code

HERE = Path(__file__).parent
SOURCES = (Path(__file__), *sorted(HERE.parents[1].glob("machine/*.py")))


def _compiled() -> Any:
    import numba
    from numba import types
    from numba.extending import intrinsic

    count = types.int64
    kinds = {
        "numbers_at": types.float64, "pixels_at": types.uint32, "bytes_at": types.uint8, "integers_at": types.int32
    }  # fmt: skip
    # The helpers are found under their names by what is compiled.
    inner: dict[str, Any] = {name: intrinsic(_pointer(types.CPointer(kind))) for name, kind in kinds.items()}

    def known(function: Any) -> Any:
        return type(function)(function.__code__, {**function.__globals__, **inner}, function.__name__)

    for helper in (blend, dashed, piece, pour):
        inner[helper.__name__] = numba.njit(error_model="numpy", fastmath=True, forceinline=True)(known(helper))
    for figure in (
        box, copy, straight_on, lines, boxes, prints, stamps, glyphs, draw_line, draw_boxes, draw_tints, draw_prints,
        draw_stamps, draw_glyphs,
    ):  # fmt: skip
        inner[figure.__name__] = numba.njit(error_model="numpy")(known(figure))
    signature = types.void(
        types.CPointer(types.uint32), count, types.CPointer(types.uint8), *2 * (types.CPointer(types.int32),),
        *4 * (count,),
    )  # fmt: skip
    return numba.cfunc(signature, nopython=True, error_model="numpy")(known(draw))  # type: ignore[call-arg]


def _pointer(to: Any) -> Any:
    """What the compiler makes of an address."""

    def typed(_typing: Any, place: Any) -> Any:
        from numba import types

        def generate(context: Any, builder: Any, signature: Any, given: Any) -> Any:
            return builder.inttoptr(given[0], context.get_value_type(signature.return_type))

        return to(types.int64), generate

    return typed


CODE = MachineCode("paint", "draw", SOURCES, [POINTER, COUNT, *3 * (POINTER,), *4 * (COUNT,)], _compiled)


def is_ready() -> bool:
    return CODE.is_ready()
