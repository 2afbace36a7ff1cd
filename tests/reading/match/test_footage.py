"""Curves read from pictures, compared with the tune that the pictures were made from."""

import numpy as np
import pytest
from PIL import Image

from cinetica.model.milestone import Logged
from cinetica.motion.records import LAUNCH
from cinetica.reading.match.footage import MOST, Footage, follow, log_of, read_footage, scale_of
from cinetica.reading.match.hands import launch_rows
from tests.builders import make_drill, make_tune, run
from tests.reading.match.pictures import GROUND, SCALE, pictures_of

TUNE = make_tune(jump__jump_speed=12.0, gravity__gravity=40.0, drive__top_speed=5.0)
DRILL = make_drill(length=60, right=[(0, 60)], jump=[(12, 40)])


@pytest.fixture(scope="module")
def shown():
    """A picture for every second tick: thirty per second."""
    trace = run(TUNE, DRILL)
    rows = list(range(0, 60, 2))
    made, feet = pictures_of(trace, rows)
    return trace, rows, made, feet


@pytest.fixture
def footage(shown):
    return Footage(tuple(np.asarray(each) for each in shown[2]), 30.0)


@pytest.mark.thorough
def test_a_picture_sequence_and_an_animation_are_read_alike(shown, tmp_path):
    _, _, made, _ = shown
    for place, picture in enumerate(made[:12]):
        picture.save(tmp_path / f"jump {place}.png")
    files = read_footage(sorted(tmp_path.glob("*.png")), 30.0)
    assert len(files.pictures) == 12
    # Sorted by number: 10 comes after 9.
    assert np.array_equal(files.pictures[10], np.asarray(made[10]))
    made[0].save(tmp_path / "jump.gif", save_all=True, append_images=made[1:12], duration=40, loop=0)
    animated = read_footage([tmp_path / "jump.gif"])
    assert (len(animated.pictures), animated.rate) == (12, 25.0)
    made[0].save(tmp_path / "moving.png", save_all=True, append_images=made[1:12], duration=20, format="PNG")
    moving = read_footage([tmp_path / "moving.png"])
    assert (len(moving.pictures), moving.rate) == (12, 50.0)
    assert np.array_equal(moving.pictures[3], np.asarray(made[3]))


def test_height_and_launch_are_read_within_two_per_cent(shown, footage):
    """The feet are clicked in the first frame and where the jump begins; all others are proposed."""
    trace, rows, _, feet = shown
    # Track what somebody would click: the centre of the body, whose patch contains no ground.
    lift = 1.2 * SCALE
    clicked = {0: (feet[0][0], feet[0][1] - lift)}
    found = clicked | follow(footage, 0, clicked[0], len(footage.pictures) - 1)
    assert len(found) == len(footage.pictures)
    read = {frame: (x, y + lift) for frame, (x, y) in found.items()}
    for frame, point in read.items():
        assert point == pytest.approx(feet[frame], abs=1.0)
    log = log_of(footage, read, scale_of((60, GROUND), (60 + 2 * SCALE, GROUND), 2.0), GROUND, "Read", "Drill")
    true = np.array(trace["y"])[rows]
    assert max(log.y) == pytest.approx(true.max(), rel=0.02)
    assert log.x == pytest.approx(np.array(trace["x"])[rows].tolist(), abs=0.03)
    launches = launch_rows(np.array(log.vx), np.array(log.vy))
    true_launch = int(trace.rows_with(LAUNCH)[0])
    assert [rows[row] for row in launches] == [true_launch + true_launch % 2]
    assert isinstance(log, Logged)
    assert log.derived == ("vx", "vy")


def test_tracking_goes_backward_too_and_stops_when_lost(shown, footage):
    _, _, _, feet = shown
    middle = (feet[20][0], feet[20][1] - 48)
    back = follow(footage, 20, middle, 10)
    assert sorted(back) == list(range(10, 20))
    assert back[10] == pytest.approx((feet[10][0], feet[10][1] - 48), abs=1.0)
    blank = [np.full_like(footage.pictures[0], 200)] * 5
    gone = Footage((*footage.pictures[:3], *blank), 30.0)
    assert max(follow(gone, 0, (feet[0][0], feet[0][1] - 48), 7)) == 2
    # Where there is nothing to see, nothing is tracked.
    assert follow(Footage(tuple(blank), 30.0), 0, (50.0, 50.0), 4) == {}


@pytest.mark.parametrize("what", ["none", "one", "sizes", "damaged", "text", "many", "huge"])
def test_unusable_pictures_are_refused_with_a_reason(what, tmp_path):
    picture = Image.new("RGB", (20, 10))
    paths = [tmp_path / f"{k}.png" for k in range(3)]
    for path in paths:
        picture.save(path)
    match what:
        case "none":
            paths, why = [], "No picture"
        case "one":
            paths, why = paths[:1], "shows no movement"
        case "sizes":
            Image.new("RGB", (30, 10)).save(paths[1])
            why = "20 × 10 and 30 × 10"
        case "damaged":
            paths[1].write_bytes(paths[1].read_bytes()[:40])
            why = r"1\.png cannot be read as a picture"
        case "text":
            paths[1].write_text("no picture")
            why = r"1\.png cannot be read as a picture"
        case "many":
            paths, why = [tmp_path / "0.png"] * (MOST + 400), f"1000 pictures are too many; at most {MOST}"
        case "huge":
            Image.new("1", (5000, 5000)).save(paths[0])
            why = "5000 × 5000 pixels are too many"
    with pytest.raises(ValueError, match=why):
        read_footage(paths)


def test_scale_and_ground_must_be_distinct():
    assert scale_of((0, 0), (30, 40), 2.0) == 25.0
    with pytest.raises(ValueError, match="too near"):
        scale_of((5, 5), (6, 5), 2.0)
    with pytest.raises(ValueError, match="more than 0"):
        scale_of((0, 0), (30, 40), 0.0)
    footage = Footage((np.zeros((9, 9, 3), np.uint8),) * 4, 60.0)
    with pytest.raises(ValueError, match="in 2 frames"):
        log_of(footage, {0: (1, 1), 2: (2, 2)}, 10.0, 5.0, "Log", "Drill")


def test_frames_without_a_point_are_left_out():
    footage = Footage((np.zeros((9, 9, 3), np.uint8),) * 6, 50.0)
    log = log_of(footage, {1: (10, 100), 2: (12, 90), 5: (20, 60)}, 10.0, 100.0, "Log", "Drill", (3.0, 0.0))
    assert log.time == pytest.approx((0.0, 0.02, 0.08))
    assert log.x == pytest.approx((3.0, 3.2, 4.0))
    assert log.y == pytest.approx((0.0, 1.0, 4.0))
