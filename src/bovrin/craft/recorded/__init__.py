"""Recorded motion: its key poses found, carried to another figure, its travel and its setup changed."""
