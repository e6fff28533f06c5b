"""Flat figures: layered drawings in, as parts on pivots with swapped drawings."""
