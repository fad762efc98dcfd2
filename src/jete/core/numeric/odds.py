"""How likely one of two explanations is, from what was thought before and what the data say."""

from __future__ import annotations

from math import exp

# Evidence beyond e⁵⁰ is as good as any.
SUREST = 50.0


def likely(before: float, evidence: float) -> float:
    """Probability of the one, 0 to 1 (Kass & Raftery 1995, J. Am. Statist. Assoc. 90:773).

    Args:
        before: its odds before anything was seen.
        evidence: natural logarithm of the Bayes factor, that is of its marginal likelihood over the other's.

    >>> likely(1.0, 0.0), round(likely(0.5, 2.0), 3)
    (0.5, 0.787)
    """
    odds = before * exp(min(evidence, SUREST))
    return odds / (1.0 + odds)
