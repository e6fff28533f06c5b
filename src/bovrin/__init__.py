"""Bovrin: a light table for acting."""

import os

__version__ = "0.1.0"

# Work beside the window and the window itself both reckon with small matrices. Threads that the algebra library starts for each
# product wait for one another then: a drag took three times as long. It reads this when NumPy is imported first.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
