"""The memory that rooms share: slots of Values, rows of state, columns of events, and what kernels are
handed.
"""
