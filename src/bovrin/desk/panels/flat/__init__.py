"""Panels for flat figures."""
