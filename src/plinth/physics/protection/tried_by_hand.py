"""A protection that is tried by hand: with what, how exactly it is timed, how far its parts may be off; practice."""

# A block battery, as it comes from a drawer, in place of a faulty output, V.
BLOCK_V = 9.0
# A hand on a stop watch, s: standard uncertainty; twice that holds 95 %.
HAND_U_S = 0.15
# A delay made of a resistor and an electrolytic, or a threshold made of a junction, may be off by this share.
RC_SHARE = 0.35
