"""Shared hypothesis strategies: what is physically possible, once."""

from hypothesis import strategies as st

distances_m = st.floats(0.5, 50_000)
frequencies_hz = st.floats(1e8, 6e9)
exponents = st.floats(1.5, 6.0)
levels_dbm = st.floats(-150, 30)
losses_db = st.floats(0, 40)
gains_dbi = st.floats(-20, 25)
spreading_factors = st.integers(5, 12)
payloads = st.integers(0, 254)
shares = st.floats(0.01, 0.99)


@st.composite
def counts(draw, largest=2000):
    """Draw k of n with n at least 1."""
    n = draw(st.integers(1, largest))
    return draw(st.integers(0, n)), n
