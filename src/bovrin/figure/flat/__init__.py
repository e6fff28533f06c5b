"""Flat figures: which part hangs on which, where pivots are, which way it faces, and the rig that follows."""
