"""Flat figures: drawings swapped, parts put before and behind one another, turned over, rejoined, bent in chains."""
