"""The notes of the shipped studies are true."""

import numpy as np
import pytest

from cinetica.files.shipped import shipped_study
from cinetica.model.clock import Clock, Mode
from cinetica.motion.simulate import simulate
from cinetica.reading.reading_off import read_off
from tests.builders import marks_at, rows_of

HARBOUR, PITFALLS = shipped_study("harbour"), shipped_study("pitfalls")


def harbour(drill, *names):
    return [simulate(HARBOUR.tune(name), HARBOUR.drill(drill), HARBOUR.clock) for name in names or ("Wren", "Bramble")]


def pitfall(name):
    """The trace of the sound tune, and that of the mistake."""
    drill = PITFALLS.drill(name)
    return [simulate(tune, drill, PITFALLS.clock) for tune in (PITFALLS.tunes_for(drill)[0], PITFALLS.tune(name))]


def test_all_tunes_and_drills_of_the_demo_are_there():
    assert [tune.name for tune in HARBOUR.tunes] == ["Wren", "Bramble", "Otter", "Punt"]
    assert [drill.name for drill in HARBOUR.drills] == [
        "Quay sprint", "Turn on the jetty", "Rooftop hop", "Gutter's edge", "Early knock", "Low beam", "Chimney gap",
        "Drying nets", "Fish steps", "Net loft", "Market diagonals", "Stick sweep", "Channel turn",
    ]  # fmt: skip
    assert all(thing.note for study in (HARBOUR, PITFALLS) for thing in (*study.tunes, *study.drills))


def test_half_forgotten_delta_time_is_three_jumps_on_three_machines():
    """As its note says; those of the sound tune differ by at most a tenth."""
    drill = PITFALLS.drill("Half forgot delta time")
    for name, heights in (("Half forgot delta time", (4.5, 2.4, 1.0)), ("Wren", (2.3, 2.4, 2.5))):
        for rate, height in zip((30, 60, 144), heights, strict=True):
            read = read_off(simulate(PITFALLS.tune(name), drill, Clock(tick_rate=rate)))
            assert read["jump_height"].value == pytest.approx(height, abs=0.06), (name, rate)


def test_rooftop_hop_shows_a_hold_and_a_tap_for_both():
    for trace in harbour("Rooftop hop"):
        read = read_off(trace)
        assert read["lowest_hop"].value < 0.6 * read["highest_hop"].value


def test_gutters_edge():
    wren, bramble = harbour("Gutter's edge")
    assert rows_of(wren, "coyote_launch") == [23]
    assert 23 - rows_of(wren, "leave")[0] == 9
    assert 23 - rows_of(bramble, "leave")[0] == 3
    assert rows_of(bramble, "lost_press")
    assert bramble["y"][-1] == -3


def test_early_knock():
    wren, bramble = harbour("Early knock")
    assert rows_of(wren, "buffered_launch")
    assert not rows_of(bramble, "buffered_launch")
    assert rows_of(bramble, "lost_press") == rows_of(bramble, "land")


def test_low_beam_chimney_gap_and_drying_nets():
    wren, bramble = harbour("Low beam")
    assert wren["x"][25] == pytest.approx(0.2)
    assert rows_of(bramble, "bump") == [23]
    wren, bramble = harbour("Chimney gap")
    assert 0.6 in wren["y"]
    assert bramble["y"][-1] == -4
    wren, bramble = harbour("Drying nets")
    assert rows_of(wren, "climb_on") == rows_of(bramble, "climb_on") == [41]
    assert rows_of(wren, "climb_off") == [81]
    assert wren["y"].max() > bramble["y"].max()


def test_the_drills_seen_from_above():
    otter, punt = harbour("Channel turn", "Otter", "Punt")
    assert set(otter["state"]) == {0}
    slip = np.degrees(np.arctan2(punt["vy"], punt["vx"])) - punt["facing"]
    assert slip[80:100].min() < -10
    (sweep,) = harbour("Stick sweep", "Otter")
    assert not sweep["intent_x"][160:].any()
    (diagonal,) = harbour("Market diagonals", "Otter")
    assert read_off(diagonal)["diagonal_ratio"].value == pytest.approx(1, abs=0.02)


def test_each_pitfall_is_a_tune_with_a_drill_of_its_name():
    assert len(PITFALLS.drills) == 19
    assert [drill.name for drill in PITFALLS.drills] == [
        tune.name for tune in PITFALLS.tunes if tune.name not in ("Wren", "Otter")
    ]


def test_missing_delta_time_and_blending_per_tick():
    wren, forgot = pitfall("Forgot delta time")
    assert (wren["x"][30], forgot["x"][30]) == pytest.approx((6.58, 3.03), abs=0.01)
    wren, blend = pitfall("Blend by the tick")
    assert (wren["vx"][3], blend["vx"][3]) == pytest.approx((7.5 * 0.373, 7.5 * 0.467), abs=0.01)
    faster = [simulate(trace.tune, trace.drill, Clock(tick_rate=120)) for trace in (wren, blend)]
    assert np.abs(faster[0]["vx"] - faster[1]["vx"]).max() < 0.25 * np.abs(wren["vx"] - blend["vx"]).max() + 0.1


def test_second_jump_and_lost_press():
    wren, twice = pitfall("Second jump in the coyote time")
    assert rows_of(wren, "launch") == [9]
    assert rows_of(twice, "launch") == [9, 13]
    for trace in pitfall("Lost press"):
        assert trace["jump_held"][20]
        assert not rows_of(trace, "launch")
        kept = PITFALLS.clock.model_copy(update={"read": type(PITFALLS.clock.read)("frame")})
        assert rows_of(simulate(trace.tune, trace.drill, kept), "launch") == [20]


def test_beam_wall_and_tunnel():
    wren, hanging = pitfall("Hanging under the beam")
    assert np.ptp(hanging["y"][7:16]) == 0
    assert wren["y"][8] < wren["y"][7]
    wren, stuck = pitfall("Stuck to the wall")
    held = stuck["y"][11:46]
    assert np.ptp(held) == 0
    assert wren["y"][30] == 0
    _, tunnel = pitfall("Tunnelling")
    assert tunnel["x"][5] < 5.2
    assert tunnel["x"][6] > 5.5
    swept = simulate(tunnel.tune.put("contact.sweep", "swept"), tunnel.drill, PITFALLS.clock)
    assert swept["x"].max() == pytest.approx(5.2 - 0.4)


def test_diagonals_and_facing():
    otter, free = pitfall("Diagonals √2 too fast")
    assert (otter["speed"][22], free["speed"][22]) == pytest.approx((6, 6 * np.sqrt(2)), abs=0.01)
    assert read_off(free)["diagonal_ratio"].value == pytest.approx(np.sqrt(2), abs=0.001)
    otter, falls = pitfall("Facing falls back")
    assert (otter["facing"][21], falls["facing"][21]) == (90, 0)
    assert "release" not in marks_at(falls, 21)


def test_fish_steps_are_walked_up_and_down_and_jumped_from():
    for trace in harbour("Fish steps"):
        steps = np.unique(trace["ground_angle"].round(1))
        assert len(steps) == 4
        (row,) = rows_of(trace, "launch")
        assert trace["ground_angle"][row - 1] == pytest.approx(np.degrees(np.arctan(3 / 8)))
        assert not [leave for leave in rows_of(trace, "leave") if leave < row]
    wren = harbour("Fish steps", "Wren")[0]
    # 7.5 u/s times 1.2 downhill, times 0.85 uphill, along the slope.
    assert (wren["speed"][120], wren["speed"][60]) == pytest.approx((7.5 * 1.2, 7.5 * 0.85))


def test_in_the_net_loft_wren_drops_and_bramble_jumps():
    wren, bramble = harbour("Net loft", "Wren", "Bramble")
    assert not rows_of(wren, "launch")
    assert wren["y"][40] == 0
    assert rows_of(bramble, "launch") == [21]


def test_pitfalls_of_slopes():
    wren, hops = pitfall("Small hops downhill")
    assert not rows_of(wren, "leave")
    assert len(rows_of(hops, "land")) == 8
    within = (hops["x"] > 2) & (hops["x"] < 10)
    assert (int((hops["state"][within] != 0).sum()), int(within.sum())) == (24, 33)
    wren, climbs = pitfall("Climbing what is too steep")
    assert (wren["x"][-1], climbs["y"][-1]) == pytest.approx((4, 5.4945))
    wren, faster = pitfall("Faster uphill than level")
    uphill = [trace["speed"][trace["ground_angle"] > 40][2] for trace in (wren, faster)]
    assert uphill == pytest.approx([7.5, 7.5 * np.sqrt(2)], abs=0.01)


def test_a_camera_per_tick_trembles_with_uneven_frames():
    uneven = PITFALLS.clock.model_copy(update={"mode": Mode.VARIABLE, "jitter": 0.5})
    trembles = []
    for trace in pitfall("Camera by the tick"):
        trace = simulate(trace.tune, trace.drill, uneven)
        steady = (trace["time"] > 1.2) & (trace["time"] < 2.6)
        trembles.append(np.abs(np.diff(trace["screen_x"][steady])).max())
    assert trembles == pytest.approx([0.012, 0.034], abs=0.0005)


def test_pitfalls_of_contact_and_presses():
    wren, late = pitfall("Contact a frame late")
    assert (wren["x"][19], late["x"][19], late["x"][25]) == pytest.approx((3.6, 3.83, 3.69), abs=0.01)
    assert (wren["y"][25], late["y"][25]) == pytest.approx((0, -0.05), abs=0.01)
    assert wren["x"].max() == pytest.approx(3.6)
    wren, twice = pitfall("Jumping off a probe that looks too far")
    assert (rows_of(wren, "launch"), rows_of(twice, "launch")) == ([5], [5, 6])
    assert (wren["y"].max(), twice["y"].max()) == pytest.approx((2.27, 2.70), abs=0.01)
    wren, bounces = pitfall("A press that is never used up")
    assert (rows_of(wren, "launch"), rows_of(bounces, "launch")) == ([5], [5, 17])
    wren, stale = pitfall("The timer of an old press")
    assert (rows_of(wren, "launch"), rows_of(stale, "launch")) == ([5, 24], [5])
    assert (rows_of(stale, "press"), rows_of(stale, "lost_press")) == ([5, 21], [22])


@pytest.mark.parametrize(("rate", "turned"), [(30, 48), (60, 24), (120, 12)])
def test_a_mouse_times_delta_time_turns_less_at_a_higher_rate(rate, turned):
    otter, slower = (
        simulate(trace.tune, trace.drill, Clock(tick_rate=rate)) for trace in pitfall("Mouse times delta time")
    )
    assert (otter["look_yaw"][-1], slower["look_yaw"][-1]) == pytest.approx((24, turned))
