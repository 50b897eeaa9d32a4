"""Constants of nature and exact conversions, each in its one home. SI."""

GAS_CONSTANT = 8.314462618  # J/(mol·K), CODATA 2018
WATER_VAPOUR_CONSTANT = 461.5  # J/(kg·K), from memory
ZERO_C_K = 273.15  # 0 °C in kelvin, by definition
ATMOSPHERE_PA = 101_325.0  # the standard atmosphere, by definition
TORR_PA = ATMOSPHERE_PA / 760  # by definition
MICRON_PA = TORR_PA / 1000  # a micron of mercury: a millitorr
PSI_PA = 6894.757293168
INCH_MERCURY_PA = 3386.389  # conventional inch of mercury at 0 °C
INCH_M = 0.0254
FOOT_M = 0.3048
POUND_KG = 0.45359237
MINUTE_S = 60.0
HOUR_S = 3600.0
DAY_S = 86_400.0
YEAR_S = 365.25 * DAY_S
