"""The published table that no single wire is taken above: continuous current in free air at 30 C.

Source: ABYC E-11, column for 105 C insulation outside engine spaces (check the current edition). The heat model allows
7-13 % more; the lower of the two counts. Between two sizes the table is read on logarithmic scales, to other air by the
square root of the temperature rise: a current of a share s of the table's makes s squared of the table's rise of 75 K.
Outside its sizes the table says nothing. The DIN VDE 0298-4 column is for 70 C insulation, which none of our classes
is.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

SOURCE = "ABYC E-11, 105 °C column, free air (check the current edition)"
TABLE_RISE_K = 105.0 - 30.0
# AWG 18, 16, 14, 12, 10, 8, 6: area mm2 (ASTM B258), amps.
ROWS = ((0.823, 20.0), (1.309, 25.0), (2.081, 35.0), (3.309, 45.0), (5.261, 60.0), (8.366, 80.0), (13.302, 120.0))
_LOG_AREA, _LOG_AMPS = np.log(np.array(ROWS)).T


def table_a(area_mm2: ArrayLike) -> NDArray[np.float64]:
    """Amps of the table for a cross-section; infinite outside its sizes, where it limits nothing.

    >>> float(table_a(2.081))
    35.0
    """
    area = np.asarray(area_mm2, float)
    inside = (area >= ROWS[0][0]) & (area <= ROWS[-1][0])
    return np.where(inside, np.round(np.exp(np.interp(np.log(area), _LOG_AREA, _LOG_AMPS)), 6), np.inf)
