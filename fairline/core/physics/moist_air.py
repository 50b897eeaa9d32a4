"""Moist air and water vapour: PsychroLib, loaded where it is first asked."""

from functools import cache
from types import ModuleType


@cache
def psychrometrics() -> ModuleType:
    """PsychroLib in SI units: ASHRAE Handbook—Fundamentals ch. 1, psychrometrics.

    >>> round(psychrometrics().GetHumRatioFromRelHum(26.0, 0.5, 101_325.0), 4)
    0.0105
    """
    import psychrolib

    psychrolib.SetUnitSystem(psychrolib.SI)
    module: ModuleType = psychrolib
    return module


def saturation_pa(temperature_c: float) -> float:
    """Vapour pressure of water, over ice below 0 °C (ASHRAE Handbook—Fundamentals ch. 1), in Pa.

    >>> round(saturation_pa(20.0))
    2339
    """
    return float(psychrometrics().GetSatVapPres(temperature_c))
