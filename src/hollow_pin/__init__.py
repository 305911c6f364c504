"""Hollow Pin: the controller repair bench, measured."""

import os

__version__ = "0.1.0"

# Before numpy is loaded. The matrices here are small: a second thread of its linear algebra would spin
# beside the first and have nothing to do, which doubles what reading a take costs the machine.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
