"""Belt friction."""

import numpy as np


def belt_ratio(mu: float, angle: float) -> float:
    """Largest ratio of tight to slack side over a fixed drum, e^{µθ}, θ in rad (Euler 1769, Eytelwein 1808)."""
    return float(np.exp(mu * angle))
