"""Nodes of a curve edited by hand: moved, added, taken out, made smooth or a corner."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from perisect.core.curve import Curve, bernstein
from perisect.core.lines.fitted import Fitted, holes_of, rebuilt
from perisect.core.lines.recipe import NodeRecipe

Floats = NDArray[np.float64]

ON_NODE_MM = 0.4
"""An edit this near a node is of that node; farther away it is of the line between."""

REACH = 0.04
LEAST_REACH_MM = 1.5
"""A line that has moved farther away from an edit than this, or this share of the piece, is another line."""

LEAST_NODES = 3
T = np.linspace(0, 1, 33)


class _Missed(Exception):
    """The edit finds nothing to work on."""


def edited(line: Fitted, edits: Sequence[NodeRecipe], longest_mm: float) -> tuple[Fitted, tuple[int, ...]]:
    """The line after all edits, one on the other, and the numbers of those that no longer fit it: the line
    has moved away from them, or would cross itself."""
    if not edits:
        return line, ()
    holes = holes_of(line.shape)
    curves, shape = list(line.curves), line.shape
    missed = []
    for number, edit in enumerate(edits):
        try:
            tried = _edited(curves, edit, longest_mm)
        except _Missed:
            missed.append(number)
            continue
        made = rebuilt(tried, holes)
        if made is None:
            missed.append(number)
            continue
        curves, shape = tried, made
    return Fitted(shape, tuple(curves)), tuple(missed)


def _edited(curves: list[Curve], edit: NodeRecipe, longest_mm: float) -> list[Curve]:
    at = np.array([edit.x, edit.y]) * longest_mm
    reach = max(LEAST_REACH_MM, REACH * longest_mm)
    loop, node, away = _nearest_node(curves, at)
    if edit.does in ("move", "add") and away > ON_NODE_MM:
        loop, curve, node = _with_node(curves, at, reach)
        curves = _swapped(curves, loop, curve)
    elif away > reach:
        raise _Missed
    curve = curves[loop]
    match edit.does:
        case "move":
            curve = _shifted(curve, node, np.array([edit.to_x, edit.to_y]) * longest_mm)
        case "delete":
            curve = _without(curve, node)
        case "smooth":
            curve = _smooth(curve, node)
        case "corner":
            curve = _corner(curve, node)
    return _swapped(curves, loop, curve)


def _swapped(curves: list[Curve], number: int, curve: Curve) -> list[Curve]:
    return [curve if n == number else each for n, each in enumerate(curves)]


def _nearest_node(curves: list[Curve], at: Floats) -> tuple[int, int, float]:
    """Loop and number of the node nearest a place, and how far it is."""
    away = [np.hypot(*(curve.nodes - at).T) for curve in curves]
    loop = int(np.argmin([each.min() for each in away]))
    return loop, int(away[loop].argmin()), float(away[loop].min())


def _with_node(curves: list[Curve], at: Floats, reach: float) -> tuple[int, Curve, int]:
    """A node put in where the line is nearest a place: its loop, the loop's curve and the node's number.

    The stretch is parted after de Casteljau: the line stays where it was.
    """
    best: tuple[float, int, int, float] = (np.inf, 0, 0, 0.0)
    for loop, curve in enumerate(curves):
        points = np.einsum("kt,mkd->mtd", bernstein(T), curve.stretches)
        away = np.hypot(*(points - at).transpose(2, 0, 1))
        row, sample = divmod(int(away.argmin()), away.shape[1])
        if away[row, sample] < best[0]:
            best = (float(away[row, sample]), loop, row, float(T[sample]))
    away_mm, loop, stretch, t = best
    number = stretch + 1
    if away_mm > reach:
        raise _Missed
    t = min(0.95, max(0.05, t))
    curve = curves[loop]
    first = curve.stretches[stretch]
    second = first[:-1] + np.diff(first, axis=0) * t
    third = second[:-1] + np.diff(second, axis=0) * t
    middle = third[0] + (third[1] - third[0]) * t
    after, before = curve.after.copy(), curve.before.copy()
    after[stretch], before[(stretch + 1) % len(before)] = second[0], second[2]
    made = Curve(
        np.insert(curve.nodes, number, middle, axis=0),
        np.insert(before, number, third[0], axis=0),
        np.insert(after, number, third[1], axis=0),
        np.insert(curve.corner, number, False),
    )
    return loop, made, number


def _shifted(curve: Curve, node: int, to: Floats) -> Curve:
    """A node moved with both its handles."""
    by = np.zeros_like(curve.nodes)
    by[node] = to - curve.nodes[node]
    return replace(curve, nodes=curve.nodes + by, before=curve.before + by, after=curve.after + by)


def _without(curve: Curve, node: int) -> Curve:
    """A node taken out; the handles beside it reach over the gap."""
    count = len(curve.nodes)
    if count <= LEAST_NODES:
        raise _Missed
    last, following = (node - 1) % count, (node + 1) % count
    chords = np.hypot(*np.diff(curve.nodes[[last, node, following]], axis=0).T)
    share = chords / max(float(chords.sum()), 1e-9)
    after, before = curve.after.copy(), curve.before.copy()
    after[last] = curve.nodes[last] + (after[last] - curve.nodes[last]) / max(share[0], 0.1)
    before[following] = curve.nodes[following] + (before[following] - curve.nodes[following]) / max(
        share[1], 0.1
    )
    return Curve(
        np.delete(curve.nodes, node, axis=0),
        np.delete(before, node, axis=0),
        np.delete(after, node, axis=0),
        np.delete(curve.corner, node),
    )


def _smooth(curve: Curve, node: int) -> Curve:
    """Both handles on one line, parallel to the chord of the nodes beside, a third of the way to each."""
    count = len(curve.nodes)
    here, last, following = (curve.nodes[n % count] for n in (node, node - 1, node + 1))
    along = following - last
    along = along / max(float(np.hypot(*along)), 1e-9)
    after, before, corner = curve.after.copy(), curve.before.copy(), curve.corner.copy()
    after[node] = here + along * np.hypot(*(following - here)) / 3
    before[node] = here - along * np.hypot(*(last - here)) / 3
    corner[node] = False
    return replace(curve, before=before, after=after, corner=corner)


def _corner(curve: Curve, node: int) -> Curve:
    """Both handles pulled in towards the nodes beside: the line meets there at an angle."""
    count = len(curve.nodes)
    here, last, following = (curve.nodes[n % count] for n in (node, node - 1, node + 1))
    after, before, corner = curve.after.copy(), curve.before.copy(), curve.corner.copy()
    after[node], before[node] = here + (following - here) / 3, here + (last - here) / 3
    corner[node] = True
    return replace(curve, before=before, after=after, corner=corner)
