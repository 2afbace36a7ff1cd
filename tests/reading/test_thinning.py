import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.reading.thinning import as_steps, envelope, part_in_view, without_repeats


@given(st.integers(1, 5000), st.integers(1, 200), st.integers(0, 10**6))
def test_an_envelope_keeps_the_extremes_and_the_ends(count, bins, seed):
    random = np.random.default_rng(seed)
    x, y = np.arange(count) / 60, random.normal(size=count)
    thin_x, thin_y = envelope(x, y, bins)
    assert thin_y.min() == y.min()
    assert thin_y.max() == y.max()
    assert (thin_x[0], thin_x[-1], thin_y[-1]) == (x[0], x[-1], y[-1])
    assert len(thin_x) == len(thin_y) <= max(count, 2 * bins + 1)
    assert np.all(np.diff(thin_x) >= 0)


def test_a_short_curve_is_unchanged():
    x = np.arange(10.0)
    assert envelope(x, x, 5)[0] is x


def test_each_bucket_of_an_envelope_has_its_extremes():
    x = np.arange(1000.0)
    y = np.where(np.arange(1000) % 100 == 50, 7.0, 0.0)
    _, thin = envelope(x, y, 10)
    assert thin[1:-1:2].tolist() == [7.0] * 10
    assert thin[:-1:2].tolist() == [0.0] * 10


@pytest.mark.parametrize(
    ("low", "high", "first", "last"), [(2.5, 4.5, 2, 5), (-9, 99, 0, 9), (20, 30, 9, 9), (-5, -1, 0, 0)]
)
def test_the_visible_part_has_one_more_point_on_either_side(low, high, first, last):
    x = np.arange(10.0)
    first_point, count = part_in_view(x, low, high)
    assert (first_point, first_point + count - 1) == (first, last)


@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=3, max_size=200))
def test_a_thinned_path_stays_in_the_cells_of_its_points(points):
    x, y = np.array(points).T
    thin_x, thin_y = without_repeats(x, y, 0.5, 0.5)
    assert (thin_x[0], thin_y[-1]) == (x[0], y[-1])
    cells = set(zip(np.round(x / 0.5).tolist(), np.round(y / 0.5).tolist(), strict=True))
    kept = set(zip(np.round(thin_x / 0.5).tolist(), np.round(thin_y / 0.5).tolist(), strict=True))
    assert kept == cells


def test_a_path_within_a_cell_keeps_its_ends():
    x = np.array([0.0, 0.1, 0.2, 0.3])
    assert without_repeats(x, x, 1.0, 1.0)[0].tolist() == [0.0, 0.3]


def test_steps_hold_each_sample_until_the_next():
    x, y = as_steps(np.array([0.0, 1.0, 2.0]), np.array([5.0, 6.0, 7.0]))
    assert list(zip(x.tolist(), y.tolist(), strict=True)) == [(0, 5), (1, 5), (1, 6), (2, 6), (2, 7)]
