"""Write the logs in examples/, one that follows a tune and one that does not: `python tools/examples.py`."""

from __future__ import annotations

from pathlib import Path

from cinetica.files.shipped import shipped_study
from cinetica.model.tune import Tune
from cinetica.motion.simulate import simulate

FOLDER = Path(__file__).parents[1] / "examples"
# The game's own world: 32 pixels to a unit, y down, and a courier who starts somewhere in it.
PIXELS, RATE, ORIGIN = 32.0, 60.0, (160.0, 448.0)


def log_of(tune: Tune) -> str:
    """A log with semicolons and decimal commas, as a spreadsheet in half of Europe wants it."""
    study = shipped_study("harbour")
    trace = simulate(tune, study.drill("Rooftop hop"), study.clock)
    lines = ["Frame;Pos X;Pos Y;Vel X;Vel Y"]
    for row in range(len(trace)):
        values = (
            ORIGIN[0] + PIXELS * trace["x"][row], ORIGIN[1] - PIXELS * trace["y"][row],
            PIXELS / RATE * trace["vx"][row], -PIXELS / RATE * trace["vy"][row],
        )  # fmt: skip
        lines.append(";".join([str(row), *(f"{value + 0.0:.3f}".replace(".", ",") for value in values)]))
    return "\n".join(lines) + "\n"


def main() -> None:
    wren = shipped_study("harbour").tune("Wren")
    FOLDER.mkdir(exist_ok=True)
    (FOLDER / "rooftop-hop-follows.csv").write_text(log_of(wren))
    # Its programmer forgot that Wren falls faster than she rises.
    (FOLDER / "rooftop-hop-leaves.csv").write_text(log_of(wren.put("gravity.fall_factor", 1.0)))


if __name__ == "__main__":
    main()
