"""The array types of the program, defined once.

Arrays count strings from the thickest, 0, because a table's axis has to begin somewhere; everywhere else strings
count from the thinnest, 1, as players count them. `Instrument.index` leads from the one to the other.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Samples = NDArray[np.float32]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Terms = dict[str, NDArray[Any]]
"""Parts of a cost by key (see `dromic.hands.terms`): milliseconds or efforts, arrays of shapes that broadcast."""
