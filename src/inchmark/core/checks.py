"""Argument checks at the door of the core: the message names argument, value and rule."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def floats(name: str, value: ArrayLike) -> Floats:
    """Return the value as floats; raise ValueError where one is NaN."""
    try:
        array = np.asarray(value, dtype=np.float64)
    except OverflowError:  # a whole number of hundreds of digits
        raise ValueError(f"{name} is larger than any number of ours") from None
    if np.any(np.isnan(array)):
        raise ValueError(f"{name}={value!r} must be a number")
    return array


def positive(name: str, value: ArrayLike) -> Floats:
    """Return the value as floats; raise ValueError unless all are finite and above 0."""
    array = floats(name, value)
    if not np.all((array > 0) & np.isfinite(array)):
        raise ValueError(f"{name}={value!r} must be greater than 0")
    return array


def within(name: str, value: ArrayLike, low: float, high: float) -> Floats:
    """Return the value as floats; raise ValueError unless all lie in [low, high]."""
    array = floats(name, value)
    if not np.all((array >= low) & (array <= high)):
        raise ValueError(f"{name}={value!r} must be from {low:g} to {high:g}")
    return array


def fraction(name: str, value: float) -> float:
    """Return the value; raise ValueError unless it lies strictly between 0 and 1."""
    if not 0 < value < 1:
        raise ValueError(f"{name}={value!r} must be between 0 and 1")
    return value
