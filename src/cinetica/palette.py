"""Papers, inks, dashes and letters that distinguish the tunes, on screen and in print."""

from __future__ import annotations

from dataclasses import dataclass

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
# Curves that are not tunes come last: the reference on another drill is W, curves from the game are X, Y, Z.
OVER_PLACE, LOG_PLACE = 22, 23


@dataclass(frozen=True, eq=False)
class Palette:
    """The colours of one look; there are two, never copied.

    Text has a contrast of at least 4.5:1 on paper and sheet.
    """

    name: str
    paper: str
    sheet: str
    grid_fine: str
    grid: str
    ink: str
    soft: str
    frame: str
    frame_text: str
    frame_soft: str
    # Under the page that is shown.
    frame_mark: str
    accent: str
    earth: str
    earth_edge: str
    differs: str
    warning: str
    inks: tuple[str, ...]


DAY = Palette(
    name="day", paper="#FBF8F1", sheet="#F4EEE1", grid_fine="#ECE4D3", grid="#DACFB8", ink="#2B2A27", soft="#6B6356",
    frame="#153A40", frame_text="#F4EEE1", frame_soft="#A9BFBD", frame_mark="#E0A040",
    accent="#0F6B63", earth="#DACFB8",
    earth_edge="#8A7F69",
    differs="#FFF1CC", warning="#A3260B",
    inks=("#1F4E9E", "#C2410C", "#4D7C0F", "#7E3794", "#A16207", "#475569"),
)  # fmt: skip
NIGHT = Palette(
    name="night", paper="#14201F", sheet="#192827", grid_fine="#1E2E2D", grid="#2A3F3D", ink="#E9E2D2", soft="#94A09A",
    frame="#0B1516", frame_text="#E9E2D2", frame_soft="#94A09A", frame_mark="#E0A040",
    accent="#4FB8AC", earth="#2A3A37",
    earth_edge="#5B716C",
    differs="#3A301B", warning="#FF9B80",
    inks=("#86AEFF", "#FF8F5C", "#A3D15B", "#D59AEC", "#E3B455", "#A9B8CC"),
)  # fmt: skip

# A tune is recognised by letter, ink, dash pattern and marker shape, so that no two differ by colour alone.
DASHES: tuple[tuple[float, ...], ...] = ((), (6, 3), (1.5, 2.5), (7, 2.5, 1.5, 2.5), (12, 4), (3, 2))


def style(place: int) -> int:
    """Which of the six styles the tune at this place has.

    From the seventh tune on they repeat, skipping the first tune's, which marks the reference.
    """
    if place >= OVER_PLACE:
        return 5
    return place if place < 6 else 1 + (place - 1) % 5


def letter(place: int) -> str:
    """The letter of the tune at this place."""
    return LETTERS[place % len(LETTERS)]
