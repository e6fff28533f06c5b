"""Bovrin: a light table for acting."""

__version__ = "0.1.0"
