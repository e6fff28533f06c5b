"""Curves worked on by hand or by a shaper, splined, fitted, filled in and thinned."""
