"""Cycles: laid out by a gait, closed, one half mirrored into the other, taken onto the spot and back, planted."""
