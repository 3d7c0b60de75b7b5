"""The statistical link model: levels, thresholds and places, with lost frames counted as censored.

Read in the order data, likelihood, mode, hypers, posterior, screening; `fit.py` puts them in a row.

=============  ======================  ==========================================================
symbol         name here               meaning
=============  ======================  ==========================================================
a_r            level                   level of rig r at the centre distance [dBm]
n              exponent                path-loss exponent
b_c            penalty                 penalty of a condition [dB], reference 0
S_s            shadow                  shadowing of a stop, shared by all rigs there [dB]
E_v, T_v       locals                  rig-by-stop remainder; visit-to-visit threshold shift [dB]
theta_r        threshold               level at which half of the frames are lost [dBm]
sigma_s/e/f/t  sigma_*                 spreads of S, E, single frames and T [dB]
w              waterfall_db            softness of the waterfall [dB]
eps            floor                   losses that have nothing to do with level
=============  ======================  ==========================================================
"""
