"""Lines that are fitted once more, with corners that the picture hides.

A blur or the pixels round off what is small. Corners are proposed, and stay where the picture is met better by them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from drelo.core.near import points_tree
from drelo.core.outline.cubics import Array
from drelo.core.trace.corners.corners import MIN_TURN, Corners, find_corners
from drelo.core.trace.corners.ends import Ends, find_ends, parted, with_ends
from drelo.core.trace.fit.curves import Curves, Flags, chosen, edges, probes, together, unit
from drelo.core.trace.fit.merge import merged
from drelo.core.trace.fit.refine import Hold, as_is, headings, joined, settle, tied, turns
from drelo.core.trace.fit.scene import Scene, observed
from drelo.core.trace.fit.segments import segment
from drelo.core.trace.fit.trust import MERGE_SHARE, Trust
from drelo.core.trace.hard.agree import agreeing
from drelo.core.trace.hard.flats import Flats
from drelo.core.trace.seen.level_lines import ClosedLines
from drelo.core.trace.seen.samples import SPACING, Samples, sample

# Only small pictures hide corners: those whose outlines together are at most so long, px.
SMALL = 3_000.0
# Corners are taken up when the line misses the edge by at most this much more, root mean square.
WORSE = 1.0
# Corners nearer to an end's than this (px) are there already.
KNOWN = 0.75
# A corner that curves have, further than this (px) from all that their samples show, is another.
OTHER = 1.5
# A stroke's end is square when that misses the edge by so much less, root mean square, within so many px of it.
SQUARE_GAIN, NEAR_END = 0.8, 4.0
# Without antialiasing it is square when no more pixels are wrong for it (px²), and the outline within so many px takes
# no more numbers; one px² that was wrong weighs as much as so many numbers.
SAME_WRONG, NEAR_NUMBERS, EVIDENCE = 0.12, 6.0, 20.0
# A square end's handles keep within this share of its width of its line, and its far corner so near (px) to where
# it was expected.
END_BULGE, END_REACH = 0.12, 1.2
# How often ends that are not the better for it are left out and the others tried again.
SQUARE_ROUNDS = 3
# Ends are looked for within so many px to either side, one reach after the other.
END_REACHES = (2.0, 2.75, 3.5, 2.75)
# … and within so many more where stairs round off wider ends.
STAIR_REACHES = (*END_REACHES, 4.5)
# Pixels round off no circle for an end: so much of the turn near one lies within its reach.
STAIR_SHARE = 0.75


def are_few(curves: Curves) -> bool:
    """Whether a second look at all outlines takes no time worth speaking of."""
    return float(curves.lengths.sum()) <= SMALL


def with_hidden_corners(curves: Curves, count: int, scene: Scene, trust: Trust, scale: float) -> Curves:
    """Lines on which fitting has brought out corners that the picture's blur hid are fitted once more with them.

    The fitted curves turn more tightly than level lines do, so that corners are looked for at half the scale. A line
    is changed only where its new fit meets the picture at least as well.
    """
    if not are_few(curves):
        return curves
    outline = edges(curves, 0.01)
    lines = ClosedLines(outline.starts, np.searchsorted(outline.line, np.arange(count + 1)))
    fine = sample(lines, SPACING / 2)
    corners = find_corners(fine, scale)
    known = np.bincount(curves.line, turns(curves) > MIN_TURN, count)
    found = np.bincount(fine.owner[corners.at], minlength=count)
    again = found > known
    if not again.any():
        return curves
    fine = sample(lines.chosen(again), SPACING / 2)
    other = _fitted_again(curves, again, fine, find_corners(fine, scale), scene, trust, scale)
    better = again & (_misses(other, scene, count) <= WORSE * _misses(curves, scene, count))
    return together(chosen(curves, ~better), chosen(other, better))


def _fitted_again(
    curves: Curves,
    again: Flags,
    samples: Samples,
    corners: Corners,
    scene: Scene,
    trust: Trust,
    scale: float,
    hold: Hold = as_is,
) -> Curves:
    """The curves with the flagged lines fitted once more, from samples of these lines and with other corners."""
    other, cloud, _ = segment(samples, corners, scale, trust.tolerance)
    other = joined(settle(other, cloud, 2))
    other = replace(other, line=np.flatnonzero(again)[other.line])
    other = together(chosen(curves, ~again), other)
    other = joined(settle(other, observed(other, scene), 2, hold))
    cloud = observed(other, scene)
    other = joined(settle(other, cloud, 1, hold))
    other = joined(merged(other, cloud, MERGE_SHARE * trust.tolerance, hold))
    return joined(settle(other, observed(other, scene), 1, hold))


def squared(
    curves: Curves,
    count: int,
    scene: Scene,
    trust: Trust,
    scale: float,
    flats: Flats | None,
    hold: Hold = as_is,
    closed: Flags | None = None,
) -> Curves:
    """Lines whose strokes end in a bend are fitted once more with two corners there, where that meets the picture
    better.

    flats: the pixels of a picture without antialiasing. closed: shape (count,), the others stay.
    """
    if not are_few(curves):
        return curves
    for reach in END_REACHES if flats is None else STAIR_REACHES:
        curves = _squared(curves, count, scene, trust, scale, reach, flats, hold, closed)
    return curves


def _squared(
    curves: Curves,
    count: int,
    scene: Scene,
    trust: Trust,
    scale: float,
    reach: float,
    flats: Flats | None,
    hold: Hold,
    closed: Flags | None,
) -> Curves:
    outline = edges(curves, 0.01)
    lines = ClosedLines(outline.starts, np.searchsorted(outline.line, np.arange(count + 1)))
    fine = sample(lines, SPACING / 2)
    ends = find_ends(fine, reach, scale, 0.0 if flats is None else STAIR_SHARE)
    if closed is not None:
        ends = ends.chosen(closed[ends.line])
    # With no corner at all the tree is empty, and every end is far from it.
    known = points_tree(curves.node[turns(curves) > MIN_TURN])
    away = np.maximum(known.query(ends.left)[0], known.query(ends.right)[0])
    ends = ends.chosen(np.asarray(away > KNOWN))
    if not len(ends):
        return curves
    before = _judged(curves, scene, flats, fine.points[ends.middle])
    for round_ in range(SQUARE_ROUNDS):
        again = np.bincount(ends.line, minlength=count) > 0
        some = sample(lines.chosen(again), SPACING / 2)
        number = np.cumsum(again) - 1
        moved = replace(
            ends,
            middle=ends.middle - fine.starts[ends.line] + some.starts[number[ends.line]],
            line=number[ends.line],
        )
        corners = find_corners(some, scale)
        if flats is not None:
            corners = parted(_with_known(corners, chosen(curves, again), some), some)
        corners = with_ends(corners, some, moved, reach, scale)
        other = _fitted_again(curves, again, some, corners, scene, trust, scale, hold)
        if flats is not None:
            other = agreeing(other, flats, count, hold=hold)
        after = _judged(other, scene, flats, fine.points[ends.middle])
        better = after.better_than(before, flats is not None) & _is_flat(other, ends)
        if better.all() or round_ == SQUARE_ROUNDS - 1:
            # A line takes its new fit when each of its ends is the better for it.
            fails = np.bincount(ends.line, ~better, count) > 0
            stays = ~again | fails
            return together(chosen(curves, stays), chosen(other, ~stays))
        ends, before = ends.chosen(better), before.chosen(better)
        if not len(ends):
            break
    return curves


def _with_known(found: Corners, curves: Curves, samples: Samples) -> Corners:
    """Corners that the curves have, and those that samples of them show besides."""
    at = np.flatnonzero(turns(curves) > MIN_TURN)
    stays = points_tree(curves.node[at]).query(found.position)[0] > OTHER
    into, out = headings(curves)
    sample_at, first = np.unique(points_tree(samples.points).query(curves.node[at])[1], return_index=True)
    at = at[first]
    all_at = np.concatenate([found.at[stays], sample_at])
    order = np.argsort(all_at, kind="stable")
    return Corners(
        all_at[order],
        np.concatenate([found.position[stays], curves.node[at]])[order],
        np.concatenate([found.before[stays], unit(into[at])])[order],
        np.concatenate([found.after[stays], unit(out[at])])[order],
    )


@dataclass(frozen=True, eq=False)
class _Judgement:
    """How well the picture is met round each spot.

    miss: shape (n,): root mean square distance to the edge, px; without antialiasing, what pixels are wrong by, px².
    numbers: shape (n,): how many the outline takes there.
    """

    miss: Array
    numbers: Array

    def chosen(self, which: Flags) -> _Judgement:
        return _Judgement(self.miss[which], self.numbers[which])

    def better_than(self, other: _Judgement, by_pixels: bool) -> Flags:
        if not by_pixels:
            return np.asarray(self.miss < SQUARE_GAIN * other.miss)
        # Round or square, all pixels may be right: then the plainer it is.
        evidence = EVIDENCE * np.maximum(other.miss - self.miss, 0)
        return np.asarray((self.miss < other.miss + SAME_WRONG) & (self.numbers <= other.numbers + evidence))


def _judged(curves: Curves, scene: Scene, flats: Flats | None, spots: Array) -> _Judgement:
    if flats is None:
        return _Judgement(_misses_near(curves, scene, spots), np.zeros(len(spots)))
    return _Judgement(_wrong_near(curves, flats, spots), _numbers_near(curves, spots))


def _wrong_near(curves: Curves, flats: Flats, spots: Array) -> Array:
    """What is wrong round each spot, summed up, px²."""
    wrong = flats.wrong(curves)
    near = points_tree(wrong.at).within(spots, NEAR_END)
    return np.array([float(wrong.amount[i].sum()) for i in near])


def _numbers_near(curves: Curves, spots: Array) -> Array:
    """How many numbers the outline takes near each spot: places of nodes, and of the curves that come by their handles
    and the directions that nothing else gives."""
    out, into = tied(curves)
    leaving = np.where(out, 0.0, np.where(curves.smooth, 0.5, 1.0))
    arriving = np.where(into, 0.0, np.where(curves.smooth[curves.following], 0.5, 1.0))
    own = np.where(curves.straight, 0.0, 2.0 + leaving + arriving)
    nodes = points_tree(curves.node).count_within(spots, NEAR_NUMBERS)
    points = probes(curves, 1.0, 2)
    there = points_tree(points.at).within(spots, NEAR_NUMBERS)
    curves_there = np.array([own[np.unique(points.segment[i])].sum() for i in there])
    return np.asarray(2.0 * nodes + curves_there)


def _is_flat(curves: Curves, ends: Ends) -> Flags:
    """Whether each end's line is one segment, and as good as straight: a round end bulges."""
    control = curves.control
    _, at = points_tree(curves.node).query(ends.left)
    chord = control[at, 3] - control[at, 0]
    length = np.maximum(np.linalg.norm(chord, axis=1), 1e-9)
    off = control[at, 1:3] - control[at, :1]
    bulge = np.abs(chord[:, None, 0] * off[:, :, 1] - chord[:, None, 1] * off[:, :, 0]).max(axis=1) / length
    there = np.linalg.norm(control[at, 3] - ends.right, axis=1) < END_REACH
    return np.asarray(there & (bulge < END_BULGE * length))


def _misses_near(curves: Curves, scene: Scene, spots: Array) -> Array:
    """Root mean square distance to the picture's edge of what lies round each spot, px."""
    cloud = observed(curves, scene)
    square = np.einsum("mi,mi->m", *(cloud.targets - cloud.probes.at,) * 2) * cloud.weight
    near = points_tree(cloud.probes.at).within(spots, NEAR_END)
    return np.array([np.sqrt(square[i].sum() / max(cloud.weight[i].sum(), 1e-9)) if len(i) else np.inf for i in near])


def _misses(curves: Curves, scene: Scene, count: int) -> Array:
    """Root mean square distance of each line to the picture's edge, px."""
    cloud = observed(curves, scene)
    line = curves.line[cloud.probes.segment]
    square = np.einsum("mi,mi->m", *(cloud.targets - cloud.probes.at,) * 2) * cloud.weight
    return np.asarray(
        np.sqrt(np.bincount(line, square, count) / np.maximum(np.bincount(line, cloud.weight, count), 1e-9))
    )
