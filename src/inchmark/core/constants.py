"""Constants of nature and of the trade, each with its source."""

SPEED_OF_LIGHT_M_S = 299_792_458.0  # SI definition, exact
BOLTZMANN_J_K = 1.380649e-23  # SI definition, exact
REFERENCE_TEMPERATURE_K = 290.0  # ITU-R P.372, T0
DIPOLE_GAIN_DBI = 2.15  # half-wave dipole over isotropic, common practice (exact value 2.151)
EARTH_RADIUS_M = 6_371_000.0  # mean radius as ITU-R P.526 takes it
VACUUM_PERMITTIVITY_F_M = 8.854_187_8128e-12  # CODATA 2018

EARTH_M_PER_DEG = 111_320.0  # a degree of latitude, or of longitude at the equator [m]
