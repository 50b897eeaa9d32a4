"""The puff that is read while the gauge itself is taken off: it is no reading of the system.

A system's pressure cannot jump from a vacuum to far over the pressure at which its water boils
between two readings unless it is opened; readings from such a jump on, which never come down again,
are set aside. Water that boils goes no higher than its own vapour pressure. The numbers are our own
choice.
"""

import numpy as np

from fairline.core.physics.moist_air import saturation_pa
from fairline.core.readings import VacuumReadings

OFF_PA = 1300.0  # about 10 000 microns, at the least
OVER_BOILING = 1.3  # times the vapour pressure of water at the tube's temperature
JUMP = 20.0  # times the reading before
WITHIN_S = 30.0  # between two readings


def readings_while_on(
    read: VacuumReadings, ambient_c: float
) -> tuple[VacuumReadings, float | None]:
    """The absolute readings until the gauge came off, and when that was, s from the first.

    All of them, and None, where it stayed on. ``ambient_c``: of the coldest tube.
    """
    off_pa = max(OFF_PA, OVER_BOILING * saturation_pa(ambient_c))
    t, pa = read.t_s, read.pa
    if len(pa) < 2:
        return read, None
    jumps = (pa[1:] >= OFF_PA) & (pa[1:] >= JUMP * pa[:-1]) & (np.diff(t) <= WITHIN_S)
    for at in np.flatnonzero(jumps) + 1:
        soon = pa[at:][t[at:] - t[at] <= 2 * WITHIN_S]
        if np.all(pa[at:] >= OFF_PA) and float(soon.max()) >= off_pa:
            return read.only(slice(0, int(at))), float(t[at] - t[0])
    return read, None
