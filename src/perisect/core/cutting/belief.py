"""The test cut: a ladder of small shapes at rising force, what a person says of each, and the setting that follows.

The answers are ordered: not through, ragged, clean, liner marked, cut through. A step's answer is the place of its
force, on a logarithmic scale and shaken by the noise of blade, stock and eye, among four thresholds (an ordinal
probit, McCullagh 1980). Thresholds and noise are not fitted but believed in: a prior from the book, weighed by the
answers (importance sampling with a second, fitted proposal), so that few answers give a wide belief and many a narrow
one.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr, ndtri

from perisect.core.process import Process
from perisect.core.sheet.force import ForceScale

Answer = Literal["not_through", "ragged", "clean", "liner_marked", "cut_through"]
ANSWERS: tuple[Answer, ...] = get_args(Answer)
CLEAN = ANSWERS.index("clean")
COST = np.array([1.0, 1.0, 0.0, 0.3, 3.0])
"""Of a sticker cut so, beside a clean one: one that is not through is lost unless somebody notices, of a marked liner
the sticker is good still, and one that is cut through falls out of its sheet."""
NEAR_BEST, SURE_ENOUGH = 0.02, 0.97
"""Forces whose setting is clean with nearly the best probability, or this one, are told apart by what single stickers
cost."""
STEPS = 7
"""Of a ladder."""
SURE = 0.95
"""A proposal that is clean with this probability needs no further ladder."""
MAX_LADDERS = 8
"""Most ladders of one test cut, in the shop and where advice is judged. Chosen high: a person ends a test earlier."""
DRAWS = 1 << 13
SAMPLE = 512
WIDER = 1.6
"""Of the fitted proposal's spread: what it does not reach would be missed."""

POWER = 0.76
"""Depth grows about as this power of force; our own trials lay between 0.55 and 1."""
FRAYED, MARKED, THROUGH = 0.11, 0.35, 0.87
"""A cut frays when this share of its depth is lacking; of what lies under it, so much is passed before it is seen
there, and before it counts as cut."""
MAT_UM = 250.0
"""What a mat stands under a through cut."""
NOISE = 0.06
SPREAD = np.array([0.4, 0.5, 0.45, 0.5])
"""Of the logarithms of the widths (clean, ragged, marked) and of the noise, two times of three."""


@dataclass(frozen=True)
class Tried:
    """A step of a ladder, and what was seen."""

    force: float
    answer: Answer


@dataclass(frozen=True)
class Prior:
    """Where the middle of the clean window is expected, and within which factor two times of three; and what is cut:
    the depth that has to be reached, and what lies under it, um."""

    force: float
    must_um: float = 90.0
    under_um: float = 80.0
    factor: float = 1.6

    @property
    def mean(self) -> NDArray[np.float64]:
        """Natural logarithms of force, of the widths of the windows clean, ragged and marked, and of the noise."""
        reached = self.must_um + self.under_um * np.array([0.0, MARKED, THROUGH])
        clean, marked = np.diff(np.log(reached)) / POWER
        ragged = -np.log(1 - FRAYED) / POWER
        return np.log([self.force, clean, ragged, marked, NOISE])

    @property
    def spread(self) -> NDArray[np.float64]:
        """Of the same."""
        return np.array([np.log(self.factor), *SPREAD])


@dataclass(frozen=True)
class Belief:
    """Draws of thresholds (n, 4), in logarithms of force and rising, of the noise (n,), and their weights (n,)."""

    thresholds: NDArray[np.float64]
    noise: NDArray[np.float64]
    weights: NDArray[np.float64]

    def answers_at(self, forces: NDArray[np.float64]) -> NDArray[np.float64]:
        """(m, 5) probabilities that a setting is of each kind, noise apart, for (m,) forces."""
        below = np.log(forces)[:, None, None] > self.thresholds[None]
        kind = below.sum(axis=2)
        return np.stack([(self.weights * (kind == k)).sum(axis=1) for k in range(len(ANSWERS))], axis=1)

    def stickers_at(self, forces: NDArray[np.float64]) -> NDArray[np.float64]:
        """(m, 5) probabilities that one sticker is of each kind, for (m,) forces: each cut is shaken by blade, stock
        and seat."""
        # A systematic sample by the weights is as good as all draws, and sixteen times as quick.
        marks = (np.arange(SAMPLE) + 0.5) / SAMPLE
        chosen = np.minimum(np.searchsorted(np.cumsum(self.weights), marks), len(self.weights) - 1)
        z = (self.thresholds[chosen][None] - np.log(forces)[:, None, None]) / self.noise[chosen][
            None, :, None
        ]
        below = ndtr(z).mean(axis=1)
        return np.asarray(np.diff(np.pad(below, ((0, 0), (1, 1)), constant_values=((0, 0), (0, 1))), axis=1))

    def window(self, share: float = 0.9) -> tuple[float, float]:
        """Forces between which it is clean, as sure as `share` at either end."""
        low = _quantile(self.thresholds[:, CLEAN - 1], self.weights, share)
        high = _quantile(self.thresholds[:, CLEAN], self.weights, 1 - share)
        return float(np.exp(low)), float(np.exp(high))


@dataclass(frozen=True)
class Proposal:
    """The force to cut with, how probable it is that it cuts clean, and the probabilities of all five answers."""

    force: float
    probability_clean: float
    answers: tuple[float, ...]

    @property
    def is_sure(self) -> bool:
        """Whether no further ladder is needed."""
        return self.probability_clean >= SURE


def believe(prior: Prior, tried: Sequence[Tried]) -> Belief:
    """What is to be believed of thresholds and noise after these answers."""
    mean, spread = prior.mean, prior.spread
    normal = _normals(len(mean))
    drawn = mean + normal * spread
    log_weight = _log_likelihood(drawn, tried)
    for _ in range(2 if tried else 0):
        weights = _normed(log_weight)
        middle = weights @ drawn
        off = drawn - middle
        # A little of the prior's own spread keeps a belief of one draw from standing still.
        covariance = (off * weights[:, None]).T @ off * WIDER + np.diag((0.06 * spread) ** 2)
        root = np.linalg.cholesky(covariance)
        drawn = middle + normal @ root.T
        log_prior = -0.5 * (((drawn - mean) / spread) ** 2).sum(axis=1)
        log_proposal = -0.5 * (normal**2).sum(axis=1)
        log_weight = log_prior - log_proposal + _log_likelihood(drawn, tried)
    thresholds, noise = _thresholds(drawn)
    return Belief(thresholds, noise, _normed(log_weight))


def prior_of(
    process: Process, face_um: float, liner_um: float, scale: ForceScale, known: float | None = None
) -> Prior:
    """What is expected of a process in a stock before it was tried.

    Args:
        known: the force that the book has for something like it; None where it has nothing.

    Raises:
        NoLiner: a cut that stops on the liner, in a stock that has none.
    """
    must, under = (face_um + liner_um, MAT_UM) if process.frees else (face_um, liner_um)
    if under < LEAST_LINER_UM:
        raise NoLiner
    guess = process.force_share * scale.most * float(np.sqrt(must / USUAL_UM))
    return Prior(known or guess, must, under)


class NoLiner(ValueError):
    """There is nothing for a kiss cut to stop on."""


LEAST_LINER_UM = 20.0
USUAL_UM = 90.0
"""What the forces of the table of processes were thought for; force grows about as the root of the thickness."""


def propose(belief: Belief, scale: ForceScale) -> Proposal:
    """Of the forces whose setting is most probably clean, the one at which single stickers cost least."""
    forces = scale.forces
    answers = belief.answers_at(forces)
    clean = answers[:, CLEAN]
    near = np.flatnonzero(clean >= min(clean.max() - NEAR_BEST, SURE_ENOUGH))
    cost = belief.stickers_at(forces[near]) @ COST
    chosen = int(near[cost.argmin()])
    return Proposal(float(forces[chosen]), float(answers[chosen, CLEAN]), tuple(map(float, answers[chosen])))


def next_ladder(belief: Belief, scale: ForceScale, steps: int = STEPS) -> list[float]:
    """Forces of the next ladder, rising: one after the other where the answer tells most of the clean window's edges.

    What an answer tells is the mutual information of answer and edges; of what a step tells, a step beside it tells the
    part that lies within the noise of it again.
    """
    forces = scale.forces
    x = np.log(forces)
    edges = belief.thresholds[:, CLEAN - 1 : CLEAN + 1]
    noise = float(np.exp(belief.weights @ np.log(belief.noise)))
    told = np.zeros(len(forces))
    for edge in range(2):
        middle = belief.weights @ edges[:, edge]
        spread = max(float(np.sqrt(belief.weights @ (edges[:, edge] - middle) ** 2)), noise)
        told += np.exp(-0.5 * ((x - middle) / spread) ** 2)
    chosen: list[int] = []
    near = x[told > 0.3 * told.max()]
    apart = max(noise, float(near.max() - near.min()) / steps)
    worth = told.copy()
    for _ in range(min(steps, len(forces))):
        best = int(worth.argmax())
        chosen.append(best)
        worth *= 1 - np.exp(-0.5 * ((x - x[best]) / apart) ** 2)
        worth[best] = -1.0
    return sorted(float(forces[n]) for n in chosen)


def trouble(tried: Sequence[Tried], scale: ForceScale) -> str | None:
    """What to look at where no force of the plotter seems to cut clean; None where one may."""
    if not tried:
        return None
    hardest, softest = max(tried, key=lambda step: step.force), min(tried, key=lambda step: step.force)
    if hardest.force >= scale.most - scale.step and ANSWERS.index(hardest.answer) < CLEAN:
        return (
            "Even the most force does not cut through. Where the blade is not worn, look at the mat (after two years "
            "it gives way), at how far the blade stands out, and at its seat; or cut in two passes."
        )
    if softest.force <= scale.least + scale.step and ANSWERS.index(softest.answer) > CLEAN:
        return "Even the least force goes too deep. Let the blade stand out less, and begin again."
    return None


def _thresholds(drawn: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    middle, (clean, ragged, marked, noise) = drawn[:, 0], np.exp(drawn[:, 1:]).T
    low, high = middle - clean / 2, middle + clean / 2
    return np.stack([low - ragged, low, high, high + marked], axis=1), noise


def _log_likelihood(drawn: NDArray[np.float64], tried: Sequence[Tried]) -> NDArray[np.float64]:
    if not tried:
        return np.zeros(len(drawn))
    thresholds, noise = _thresholds(drawn)
    x = np.log([step.force for step in tried])
    kind = np.array([ANSWERS.index(step.answer) for step in tried])
    padded = np.pad(thresholds, ((0, 0), (1, 1)), constant_values=((0, 0), (-1e9, 1e9)))
    upper = ndtr((padded[:, kind + 1] - x) / noise[:, None])
    lower = ndtr((padded[:, kind] - x) / noise[:, None])
    # Now and then a person clicks beside what was meant.
    return np.asarray(np.log(0.995 * (upper - lower) + 0.001).sum(axis=1))


@lru_cache(maxsize=2)
def _normals(dimensions: int) -> NDArray[np.float64]:
    """Evenly spread draws of the standard normal distribution, always the same."""
    from scipy.stats import qmc  # Half a second to load, and few ask.

    points = qmc.Sobol(dimensions, seed=7).random(DRAWS)
    return np.asarray(ndtri(np.clip(points, 1e-6, 1 - 1e-6)))


def _normed(log_weight: NDArray[np.float64]) -> NDArray[np.float64]:
    weights = np.exp(log_weight - log_weight.max())
    return np.asarray(weights / weights.sum())


def _quantile(values: NDArray[np.float64], weights: NDArray[np.float64], share: float) -> float:
    order = np.argsort(values)
    reached = np.cumsum(weights[order])
    return float(values[order[min(int(np.searchsorted(reached, share)), len(order) - 1)]])
