"""Functions compiled ahead by Numba, how they call one another, and where they are kept between runs.

No other room knows how Numba works inside. See :mod:`.compiling` for what is relied on.
"""
