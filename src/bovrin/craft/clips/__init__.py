"""Clips: kept, laid on lanes, changed there, faded, and turned back into keys."""
