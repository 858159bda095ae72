"""Fitting a logistic model about a prior: for the shipped models, and for one song's own."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from orchesis.listening.second_pass import Matrix, sigmoid

SPREAD = np.array([0.3, 0.2, 0.4, 0.5, 1.0, 0.3, 1.0])
"""How far each weight, in the order of TERMS, may plausibly stray from where it starts."""

BOUNDS = ((0.2, 2.0), (-1.0, 0.0), (0.0, 2.0), (-1.0, 2.0), (0.0, 3.0), (-0.6, 0.6), (-4.0, 4.0))
"""What is known beforehand of their signs: a rival never speaks for a stroke, a pattern and the
sound of the kit never against it. Without this, quirks of the kits trained on are learnt."""


def fit_logistic(
    terms: Matrix, right: npt.NDArray[np.bool_], *, start: Matrix, spread: Matrix = SPREAD
) -> Matrix:
    """The most likely weights, shape (terms,), given a normal prior about `start`.

    Parameters
    ----------
    terms : shape (n, terms). right : shape (n,), the truth.
    """

    def cost(weights: Matrix) -> float:
        z = terms @ weights
        prior = 0.5 * (((weights - start) / spread) ** 2).sum()
        return float((np.logaddexp(0, z) - right * z).sum() + prior)

    def slope(weights: Matrix) -> Matrix:
        away: Matrix = (weights - start) / spread**2
        return np.asarray(terms.T @ (sigmoid(terms @ weights) - right) + away)

    found: Matrix = minimize(cost, start, jac=slope, method="L-BFGS-B", bounds=BOUNDS).x
    return found
