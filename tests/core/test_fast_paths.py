"""What passes blank stretches of a picture by gives what looking at every pixel would."""

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.trace.hard.stairs import stair_corners
from drelo.core.trace.seen.coverage import BLOCK, coverage
from drelo.core.trace.seen.level_lines import level_lines
from drelo.core.trace.seen.samples import sample

sides = st.integers(2, 3 * BLOCK + 3)


@given(sides, sides, st.integers(0, 999), st.sampled_from([0.01, 0.1, 0.5]))
def test_level_lines_run_through_every_cell_that_the_level_crosses(width, height, seed, share):
    values = (np.random.default_rng(seed).random((height, width)) < share).astype(np.float32)
    field = np.pad(values, 1, mode="edge")
    # The picture's border closes what runs off it.
    for border in (field[0], field[-1], field[1:-1, 0], field[1:-1, -1]):
        border[:] = 0
    ink = field > 0.5
    crossings = np.count_nonzero(ink[:, 1:] != ink[:, :-1]) + np.count_nonzero(ink[1:] != ink[:-1])
    lines = level_lines(values, 0.5)
    # A line has one point on every side between ink and paper.
    assert len(lines.points) == crossings


@settings(max_examples=40)
@given(st.integers(1, 2 * BLOCK + 5), st.integers(1, 20), st.integers(0, 999))
def test_coverage_is_that_of_the_shape_in_every_pixel(width, height, seed):
    random = np.random.default_rng(seed)
    angle = np.sort(random.uniform(0, 2 * np.pi, 5))[::-1]
    corners = np.stack([width / 2 + width * np.cos(angle) * 0.7, height / 2 + height * np.sin(angle) * 0.7], 1)
    shape = shapely.Polygon(corners)
    made = coverage(corners, np.roll(corners, -1, 0), width, height)
    x, y = np.meshgrid(np.arange(width), np.arange(height))
    true = shapely.area(shapely.intersection(shapely.box(x, y, x + 1, y + 1), shape))
    assert np.abs(made - true).max() < 1e-4


@given(st.integers(3, 40), st.integers(3, 40), st.integers(0, 999))
def test_stairs_are_the_same_mirrored_and_turned(width, height, seed):
    random = np.random.default_rng(seed)
    ink = np.repeat(np.repeat(random.random((height // 3 + 1, width // 3 + 1)) < 0.4, 3, 0), 3, 1)[:height, :width]

    def places(found):
        return {tuple(p) for p in found.position.tolist()}

    here = places(stair_corners(ink))
    assert places(stair_corners(ink.T)) == {(y, x) for x, y in here}
    assert places(stair_corners(ink[:, ::-1])) == {(width - x, y) for x, y in here}
    assert places(stair_corners(ink[::-1])) == {(x, height - y) for x, y in here}


@given(st.integers(0, 30))
def test_samples_around_a_place_go_round_their_own_line(reach):
    values = np.zeros((30, 60), np.float32)
    values[5:12, 5:12] = values[8:25, 30:50] = 1
    samples = sample(level_lines(values, 0.5))
    at = np.array([0, len(samples.points) - 1])
    around = samples.around(at, reach)
    assert around.shape == (2, 2 * reach + 1)
    assert around[:, reach].tolist() == at.tolist()
    assert (samples.owner[around] == samples.owner[at][:, None]).all()
    assert all(np.array_equal(around[:, reach + k], samples.shifted(k)[at]) for k in range(-reach, reach + 1))
