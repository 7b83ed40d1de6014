"""Values that nobody states of a part and that no input stands for: usual ones, each with what it rests on.

What a part may state itself and leaves out is estimated in ``inputs``, with its spread; whoever uses one of these says
that it is an estimate.
"""

# How much of its limit a supply that folds back leaves into a short, how long one that cuts out bears it, and how long
# it then stays off.
FOLDED_TO, HICCUP_AFTER_S, HICCUP_OFF_S = 0.25, 0.01, 0.3
# The longest a push-pull converter is on: what its driver keeps between the halves.
MOST_DUTY = 0.96
# Two diodes of a mains bridge, and what its bulk capacitor has in series.
MAINS_BRIDGE_V, BULK_ESR_OHM = 1.8, 0.1
# What a power-factor stage holds its output at.
USUAL_BOOST_V = 390.0
# Heat capacity of one output device with its tab, where it stands for nothing but the first seconds.
DEVICE_J_PER_K = 4.0
# A bias between well compensated and hardly, per kelvin, and how far around it a window is laid (as a share of the
# drift: where it is stated, and where it is not).
BIAS_TEMPCO_PER_K, DRIFT_SPREAD, UNKNOWN_DRIFT_SPREAD = 0.003, 0.5, 1.5
# A finned profile as long as a hand.
SINK_J_PER_K = 500.0
# Air at a bench that nobody has measured, and on a day as hot as it gets.
USUAL_AIR_C, HOT_DAY_C = 20.0, 35.0
# What a transformer's insulation stands for good where nobody states its class: class 105 (IEC 60085).
WINDING_LIMIT_C = 105.0
# A reservoir of a drawer, of which nobody can read the year.
USUAL_AGE_YEARS = 20.0
# From so many years on the oxide of an electrolytic that lay idle is not to be trusted with its volts at once.
OLD_AFTER_YEARS = 10
# What a trimmer at its least leaves of the quiescent current.
LEFT_OVER_SHARE = 0.10
# How far a bulb's rating and the mains of the day may be off what they say, as standard uncertainties.
OF_A_LAMP, OF_THE_MAINS = 0.06, 0.03
# Copper that stays cool in a case, amperes rms per square millimetre.
A_PER_MM2 = 4.0
