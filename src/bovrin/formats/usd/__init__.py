"""USD, written by the library `usd-core` where it is installed."""
