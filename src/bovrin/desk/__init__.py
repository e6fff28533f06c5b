"""The window. Whoever loads any of it will want a picture soon, so the graphics driver is loaded alongside."""

from bovrin.picture.driver import load_driver

load_driver()
