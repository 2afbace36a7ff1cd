"""The wording of edits in the history."""

import pytest

from cinetica.files.shipped import shipped_study
from cinetica.model import editing
from cinetica.model.edit_words import changed_values

HARBOUR = shipped_study("harbour")
WREN = HARBOUR.tune("Wren")


def put(**values):
    tune = WREN
    for id, value in values.items():
        tune = tune.put(id.replace("__", "."), value)
    return HARBOUR.with_tune(tune, instead_of="Wren")


@pytest.mark.parametrize(
    ("after", "words"),
    [
        (put(gravity__gravity=30.0), "42 → 30"),
        (put(input__view_yaw=-12.5), "0 → −12.5"),
        (put(drive__law="instant"), "ramp → instant"),
        (put(jump__spend_grace=not WREN.jump.spend_grace), "on → off" if WREN.jump.spend_grace else "off → on"),
        (put(gravity__gravity=30.0, drive__top_speed=5.0), "2 numbers"),
        (HARBOUR.model_copy(update={"clock": HARBOUR.clock.model_copy(update={"tick_rate": 30.0})}), "60 → 30"),
        (editing.duplicated(HARBOUR, "Wren"), ""),
        (editing.renamed_tune(HARBOUR, "Wren", "Robin"), ""),
        (HARBOUR, ""),
    ],
)
def test_a_changed_number_is_described_with_both_values(after, words):
    assert changed_values(HARBOUR, after) == words
